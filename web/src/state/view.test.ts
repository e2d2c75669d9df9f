import { describe, expect, it } from "vitest";
import {
  findingsOf,
  lensOptions,
  NO_FILTERS,
  ofSubject,
  optionsOf,
  readList,
  readQuery,
  readSums,
  readView,
} from "./view";

const LENSES = ["low-ctr", "query-page-mismatch", "query-groups"] as const;

describe("an address", () => {
  it("passes over what makes no sense in it", () => {
    const values = {
      first: "2026-11-15",
      last: "soon",
      min_impressions: -4,
      evidence: ["firm", "sure"],
      decided: "maybe",
    };
    expect(readView(values)).toEqual({ first: "2026-11-15", evidence: ["firm"] });
    expect(readList({ finding: "guess", sort: "nothing", row: "1;2", up: "yes" }, LENSES)).toEqual({});
  });
  it("keeps a row, an order and the finding, but not the usual one", () => {
    const values = {
      finding: "query-page-mismatch",
      sort: "ctr",
      up: true,
      row: "1-2",
      device: ["mobile", 3],
      text: 12,
    };
    const read = { finding: "query-page-mismatch", sort: "ctr", up: true, row: "1-2", device: ["mobile"], text: "12" };
    expect(readList(values, LENSES)).toEqual(read);
    expect(readList({ finding: "low-ctr" }, LENSES)).toEqual({});
  });
  it("of sums knows days and the part of the site alone", () => {
    const values = { section: "/guides/", evidence: ["firm"], position_from: 3, query: 4 };
    expect(readSums(values)).toEqual({ section: "/guides/" });
    expect(readQuery(values)).toEqual({ section: "/guides/", query: 4 });
  });
});

it("what is asked of the API is what the address says, against last year unless it says otherwise", () => {
  expect(optionsOf({ section: "/guides/", sort: "clicks", up: true, row: "3" })).toEqual({
    compare: "year",
    section: "/guides/",
  });
  expect(lensOptions({})).toEqual({ compare: "year", evidence: ["firm", "likely"] });
  expect(lensOptions({ evidence: ["too little data"], compare: "none" })).toEqual({
    compare: "none",
    evidence: ["too little data"],
  });
});

it("finds the lists of a place where they are declared, in their order", () => {
  expect(findingsOf("pages")).toEqual(["pages", "page-two-candidates"]);
  expect(findingsOf("queries")[0]).toBe("low-ctr");
  expect(findingsOf("nowhere")).toEqual([]);
});

it("keeps days, part and assumptions when filters go, and for a single subject", () => {
  expect("section" in NO_FILTERS && "evidence" in NO_FILTERS).toBe(true);
  expect("first" in NO_FILTERS || "device" in NO_FILTERS || "target" in NO_FILTERS).toBe(false);
  const options = {
    first: "2026-08-17",
    target: "third",
    section: "/a/",
    evidence: ["firm"],
    device: ["mobile"],
  } as const;
  expect(ofSubject({ ...options, evidence: ["firm"], device: ["mobile"] })).toEqual({
    first: "2026-08-17",
    target: "third",
    device: ["mobile"],
  });
});
