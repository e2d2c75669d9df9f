import { expect, test } from "vitest";
import type { Schemas } from "../api/client";
import { firstOpen, openOf } from "./needs";

const site = (...sources: Schemas["SiteShown"]["sources"]) => ({ sources }) as Schemas["SiteShown"];
const LISTS = ["missing-queries", "titles", "serp-captures", "competitor-queries"] as const;

test("lists without their data are no tabs, but the one that the address names is", () => {
  expect(openOf(site("search"), LISTS, "titles")).toEqual(["titles"]);
  expect(openOf(site("search", "crawl"), LISTS, "titles")).toEqual(["missing-queries", "titles"]);
  expect(openOf(site("search", "results"), LISTS, "serp-captures")).toEqual(["serp-captures"]);
});

test("a place opens with the first list that has data", () => {
  expect(firstOpen(site("search", "results"), LISTS)).toBe("serp-captures");
  expect(firstOpen(site("search", "results", "page-queries"), LISTS)).toBe("serp-captures");
  expect(firstOpen(site("search"), LISTS)).toBe("missing-queries");
});

test("one of several kinds of data is enough", () => {
  expect(firstOpen(site("page-links"), ["mentions", "needs-links"] as const)).toBe("needs-links");
});
