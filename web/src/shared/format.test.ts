import { describe, expect, it } from "vitest";
import { change, count, day, moment, path, place, share, shorten, writeFor } from "./format";

describe("numbers as people read them", () => {
  it("what does not exist is a dash, never 0", () => {
    expect([count(null), share(undefined), place(null)]).toEqual(["–", "–", "–"]);
    expect(count(0)).toBe("0");
  });
  it("small shares keep a digit that tells", () => {
    expect([0.123, 0.034, 0.0027, 0.00012, 0].map(share)).toEqual([
      "12.3\u202f%",
      "3.4\u202f%",
      "0.27\u202f%",
      "0.012\u202f%",
      "0\u202f%",
    ]);
  });
  it("tells pages of one path on two hosts apart", () => {
    const [shop, staging] = ["https://www.shop.example/sea/", "https://staging.shop.example/sea/"];
    expect(shorten(shop, [shop, "https://www.shop.example/lake/"])).toBe("/sea/");
    expect(shorten(shop, [shop, staging])).toBe("www.shop.example/sea/");
  });
  it("as the reader chose, and as usual again", () => {
    const usual = count(1234.4);
    writeFor({ language: "de", time_zone: "Asia/Tokyo" });
    expect([count(1234567), place(8.25), share(0.034), day("2026-08-16")]).toEqual([
      "1.234.567",
      "8,3",
      "3,4\u00a0%",
      "16. Aug. 2026",
    ]);
    expect(moment("2026-08-16T20:30:00Z")).toContain("17. Aug. 2026, 05:30");
    writeFor({ language: "", time_zone: "" });
    expect(count(1234.4)).toBe(usual);
  });
  it("thousands, changes, days, paths", () => {
    expect(count(1234567.4)).toBe("1\u00a0234\u00a0567");
    expect([change(-12), change(0), change(7)]).toEqual(["−12", "0", "+7"]);
    expect(day("2026-11-15")).toBe("15 Nov 2026");
    expect(path("https://www.shop.example/a/?b=1")).toBe("/a/?b=1");
    expect(path("not an address")).toBe("not an address");
  });
});
