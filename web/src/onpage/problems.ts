// Problems of titles and descriptions, in words.
const WORDS: Record<string, string> = {
  "missing-title": "no title",
  "several-title": "several titles",
  "doubled-title": "title of another page",
  "too-long-title": "title cut off",
  "site-name-cut-title": "site name cut off",
  "same-as-heading-title": "title repeats heading",
  "lacks-main-query-title": "main query not in title",
  "rewritten-by-engine-title": "SERP shows another title",
  "missing-description": "no description",
  "several-description": "several descriptions",
  "doubled-description": "description of another page",
  "too-long-description": "description cut off",
  "lacks-main-query-description": "main query not in description",
  "rewritten-by-engine-description": "SERP shows another description",
};
export const problemWords = (name: string) => WORDS[name] ?? name;
