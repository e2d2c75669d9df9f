// Labels of a template's fields.
import type { Schemas } from "../api/client";

export type Template = Schemas["TemplateShown"];
export type Values = Schemas["TemplateInput"];
export type Report = Schemas["ReportShown"];

export const PERIODS: Record<NonNullable<Values["period"]>, string> = {
  "last-month": "the last whole month",
  "last-4-weeks": "the last 4 whole weeks",
  "last-13-weeks": "the last 13 whole weeks",
};
export const COMPARED: Record<NonNullable<Values["compare"]>, string> = {
  year: "the same weeks last year",
  previous: "the previous period",
  none: "nothing",
};
export const SCHEDULES: Record<NonNullable<Values["schedule"]>, string> = {
  "": "never",
  weekly: "every week",
  monthly: "every month",
};
export const WEEKDAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];
const LANGUAGES_SHOWN: Record<NonNullable<Values["language"]>, string> = {
  en_GB: "British English",
  en_US: "American English",
  de: "German",
  fr: "French",
  es: "Spanish",
  it: "Italian",
  nl: "Dutch",
};
export const LANGUAGES = Object.entries(LANGUAGES_SHOWN) as [NonNullable<Values["language"]>, string][];

/** A new template, before it is saved. */
export const blank = (name: string, parts: string[]): Required<Values> => ({
  name,
  title: "",
  own_name: "",
  contact: "",
  accent: "#2e6350",
  language: "en_GB",
  period: "last-month",
  compare: "year",
  parts: parts.map((one) => ({ name: one, words: "" })) as Required<Values>["parts"],
  schedule: "",
  day: 1,
  recipients: [],
  message: "",
  link_days: 30,
});

/** A template without the fields that the server adds. */
export function written(template: Template): Required<Values> {
  const { id: _, version: __, logo: ___, next_due: ____, ...rest } = template;
  return rest as Required<Values>;
}
