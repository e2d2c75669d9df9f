import { describe, expect, it } from "vitest";
import { readCurve } from "./curve";
import { lastWeeks } from "./period";

describe("a curve typed by hand", () => {
  it("is pairs of a position and a CTR, with or without its sign", () => {
    expect(readCurve("1  29.3 %\n\n3: 8.4\n 10 2%")).toEqual([
      { position: 1, ctr: expect.closeTo(0.293) },
      { position: 3, ctr: expect.closeTo(0.084) },
      { position: 10, ctr: expect.closeTo(0.02) },
    ]);
  });
  it.each(["", "1 29 %", "1 29 %\nthree 8 %", "1 29 %\n3"])("is none when it is %j", (text) => {
    expect(readCurve(text)).toBeNull();
  });
});

describe("last whole weeks", () => {
  it("end on a Sunday, which the last day may be", () => {
    expect(lastWeeks("2026-11-15", 4)).toEqual({ first: "2026-10-19", last: "2026-11-15" });
    expect(lastWeeks("2026-11-21", 4)).toEqual({ first: "2026-10-19", last: "2026-11-15" });
    expect(lastWeeks("2026-11-16", 1)).toEqual({ first: "2026-11-09", last: "2026-11-15" });
  });
});
