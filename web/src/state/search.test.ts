import { describe, expect, it } from "vitest";
import { listAsked, readSearch } from "./search";

describe("the address", () => {
  it("passes over what makes no sense in it", () => {
    const given = {
      lens: "guess",
      from: "2026-11-15",
      to: "soon",
      shown: -4,
      evidence: ["firm", "sure"],
      row: "1;2",
      up: "yes",
    };
    expect(readSearch(given)).toEqual({ from: "2026-11-15", evidence: ["firm"] });
  });
  it("asks for findings only, against last year, when it says nothing", () => {
    expect(listAsked({})).toEqual({
      lens: "low-ctr",
      compare: "year",
      target: "next-band",
      evidence: ["firm", "likely"],
      sort: "at_stake",
      descending: true,
    });
  });
  it("gives every filter to the API", () => {
    const search = readSearch({ shown: 0, text: 12, above: 4, below: 10, sort: "ctr", up: true });
    expect(listAsked(search)).toMatchObject({
      min_impressions: 0,
      text: "12",
      position_from: 4,
      position_to: 10,
      sort: "ctr",
      descending: false,
    });
  });
});
