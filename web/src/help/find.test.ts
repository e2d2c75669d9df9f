import { expect, test } from "vitest";
import { findIn, type HelpPage } from "./find";

const page = (title: string, text: string): HelpPage => ({ group: "Guide", name: title.toLowerCase(), title, text });
const PAGES = [
  page("Find pages with a low CTR", "Open Queries. The list compares **clicks** with expected clicks. Read the title."),
  page("Internal links", "![Links: clicks](../x.png) A page needs links. See [low CTR](low-ctr.md)."),
];

test("a page is found by all the words typed, titles first, with the line that has one", () => {
  expect(findIn(PAGES, "low ctr").map((hit) => hit.title)).toEqual(["Find pages with a low CTR", "Internal links"]);
  expect(findIn(PAGES, "expected CLICKS")[0]?.line).toBe("The list compares clicks with expected clicks.");
  expect(findIn(PAGES, "low nothing")).toEqual([]);
});

test("words of addresses and of pictures are not found", () => {
  expect(findIn(PAGES, "png")).toEqual([]);
  expect(findIn(PAGES, "clicks").map((hit) => hit.title)).toEqual(["Find pages with a low CTR"]);
});
