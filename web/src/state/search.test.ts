import { describe, expect, it } from "vitest";
import { clashesAsked, listAsked, pagesAsked, readClashesSearch, readPagesSearch, readSearch } from "./search";

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

it("pages and clashes share the scope of their addresses and keep their own words", () => {
  const given = {
    section: "/guides/",
    device: ["mobile", 3],
    type: "guide",
    sort: "gain",
    page: 7,
    lens: "off-fit",
    row: "1-2",
  };
  expect(readPagesSearch(given)).toEqual({ section: "/guides/", device: ["mobile"], sort: "gain", page: 7 });
  expect(readClashesSearch(given)).toEqual({ section: "/guides/", device: ["mobile"] });
  expect(readClashesSearch({ sort: "loss", query: 4, decided: "open" })).toEqual({
    sort: "loss",
    query: 4,
    decided: "open",
  });
  expect(readPagesSearch({ page: "x", decided: "maybe", section: "" })).toEqual({});
});

it("what is asked of the API is what the address says, and no more", () => {
  expect(pagesAsked({ section: "/guides/", type: ["guide"], up: true, page: 3 })).toEqual({
    compare: "year",
    target: "next-band",
    section: "/guides/",
    page_type: ["guide"],
    sort: "gain",
    descending: false,
  });
  expect(clashesAsked({ evidence: ["firm"], group: ["hire"] })).toMatchObject({
    evidence: ["firm"],
    query_group: ["hire"],
    sort: "loss",
    descending: true,
  });
});
