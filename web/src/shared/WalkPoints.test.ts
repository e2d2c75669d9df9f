import { expect, it } from "vitest";
import { nextPoint } from "./WalkPoints";

it("goes from point to point and stops at the ends", () => {
  expect(nextPoint("ArrowRight", 0, 3)).toBe(1);
  expect(nextPoint("ArrowRight", 2, 3)).toBe(2);
  expect(nextPoint("ArrowLeft", 0, 3)).toBe(0);
  expect(nextPoint("End", 0, 3)).toBe(2);
  expect(nextPoint("Home", 2, 3)).toBe(0);
});

it("starts at the first point where none is selected", () => {
  expect(nextPoint("ArrowRight", -1, 3)).toBe(0);
  expect(nextPoint("ArrowLeft", -1, 3)).toBe(0);
});

it("leaves other keys to the page, and all keys where there are no points", () => {
  expect(nextPoint("j", 0, 3)).toBeUndefined();
  expect(nextPoint("ArrowRight", -1, 0)).toBeUndefined();
});
