// Made by manage.py openapi from the declarations of findings; do not change by hand.
export const CATALOG = {
  "accepted-links": {
    "title": "Accepted links",
    "question": "Which links are to be set on which page, and were they?",
    "method": "suggested-links",
    "claims": [
      "link was taken",
      "links were taken"
    ],
    "order": "",
    "needs": [
      [
        "crawl",
        "page-links"
      ]
    ],
    "looks_at": [
      "page_type",
      "section",
      "text"
    ],
    "columns": [
      {
        "name": "from",
        "kind": "page",
        "label": "page to edit, leads to",
        "explains": "page to edit, and the link target",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "anchor",
        "kind": "text",
        "label": "anchor",
        "explains": "anchor text",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "sentence",
        "kind": "text",
        "label": "sentence",
        "explains": "where the link can go",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "state",
        "kind": "word",
        "label": "set",
        "explains": "whether the last crawl found it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "found_anchor",
        "kind": "text",
        "label": "found",
        "explains": "anchor text found by the crawl",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "by",
        "kind": "text",
        "label": "accepted by",
        "explains": "who accepted it",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "accepted_on",
        "kind": "day",
        "label": "accepted on",
        "explains": "when it was accepted",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      }
    ]
  },
  "breaks": {
    "title": "Breaks and cliffs",
    "question": "Which pages, sections, or the site as a whole changed their level, when, and near which event?",
    "method": "breaks",
    "claims": [
      "break",
      "breaks"
    ],
    "order": "",
    "needs": [],
    "looks_at": [
      "branded",
      "country",
      "device",
      "level",
      "measure",
      "page_type",
      "query_group",
      "section",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "page",
        "kind": "page",
        "label": "page",
        "explains": "the page that changed",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "section",
        "kind": "text",
        "label": "section",
        "explains": "the section that changed",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "site",
        "kind": "text",
        "label": "site",
        "explains": "the site",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "week",
        "kind": "day",
        "label": "from the week of",
        "explains": "the first week of the new level",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "size",
        "kind": "share",
        "label": "by",
        "explains": "change relative to the level before",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "before",
        "kind": "amount",
        "label": "before",
        "explains": "level per week before the break",
        "unit": "a week",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "after",
        "kind": "amount",
        "label": "after",
        "explains": "level per week after the break",
        "unit": "a week",
        "low": false,
        "extra": false,
        "sorts": true
      }
    ]
  },
  "broken-links": {
    "title": "Broken links",
    "question": "Which links lead to redirects or gone pages, and which anchors say nothing or mean another page?",
    "method": "links-between-pages",
    "claims": [
      "link",
      "links"
    ],
    "order": "fault",
    "needs": [
      [
        "crawl",
        "page-links"
      ]
    ],
    "looks_at": [
      "country",
      "device",
      "fault",
      "min_impressions",
      "page_type",
      "section",
      "target",
      "text"
    ],
    "columns": [
      {
        "name": "from",
        "kind": "text",
        "label": "link on, to",
        "explains": "page with the link, and its target",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "anchor",
        "kind": "text",
        "label": "anchor",
        "explains": "its words",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "fault",
        "kind": "word",
        "label": "problem",
        "explains": "what is wrong with the link",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "pages",
        "kind": "count",
        "label": "on pages",
        "explains": "number of pages with it, if it is in the navigation",
        "unit": "pages",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "leads_to",
        "kind": "text",
        "label": "moved to",
        "explains": "target of the redirect",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      },
      {
        "name": "in_body",
        "kind": "flag",
        "label": "in body",
        "explains": "whether it is in the body of the page",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "change": {
    "title": "Why clicks changed",
    "question": "Why did clicks change: how often shown, ranking, snippet, or queries that came and went?",
    "method": "why-clicks-changed",
    "claims": [
      "line of the change",
      "lines of the change"
    ],
    "order": "",
    "needs": [],
    "looks_at": [
      "branded",
      "by",
      "compare",
      "country",
      "device",
      "page_type",
      "query_group",
      "section",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "page",
        "kind": "page",
        "label": "page",
        "explains": "the page",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "section",
        "kind": "text",
        "label": "section",
        "explains": "the section",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "page_type",
        "kind": "text",
        "label": "page type",
        "explains": "the page type",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "query",
        "kind": "query",
        "label": "query",
        "explains": "the query",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "query_group",
        "kind": "text",
        "label": "query group",
        "explains": "the query group",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "site",
        "kind": "text",
        "label": "site",
        "explains": "the site",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks_before",
        "kind": "amount",
        "label": "clicks before",
        "explains": "clicks in the comparison period",
        "unit": "clicks",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks_after",
        "kind": "amount",
        "label": "clicks now",
        "explains": "clicks in the period",
        "unit": "clicks",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "change",
        "kind": "amount",
        "label": "change",
        "explains": "clicks now minus clicks before",
        "unit": "clicks",
        "low": true,
        "extra": false,
        "sorts": true
      }
    ]
  },
  "clashes": {
    "title": "Clashes",
    "question": "Which queries do my pages compete for, which page should lead, and what should be done?",
    "method": "clashes",
    "claims": [
      "query is contested",
      "queries are contested"
    ],
    "order": "loss_month",
    "needs": [],
    "looks_at": [
      "branded",
      "country",
      "decided",
      "device",
      "evidence",
      "min_impressions",
      "page_type",
      "position_from",
      "position_to",
      "query_group",
      "section",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, who should lead",
        "explains": "query, and the page that should lead",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "kind",
        "kind": "word",
        "label": "kind",
        "explains": "kind of clash: alternating, split, wrong page ranks, or double listing (a strength)",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "hand_offs",
        "kind": "amount",
        "label": "hand-offs",
        "explains": "changes of the best page per 100 days",
        "unit": "in 100 days",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "loss_month",
        "kind": "amount",
        "label": "lost clicks",
        "explains": "clicks lost to the clash a month",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks of all contenders in the period",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions of all contenders in the period",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "best_position",
        "kind": "position",
        "label": "best",
        "explains": "average position of the best contender",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      }
    ]
  },
  "competing-pages": {
    "title": "Competing pages",
    "question": "Which pages rank above yours, are they stronger, and what do they have that yours lacks?",
    "method": "competing-pages",
    "claims": [
      "query",
      "queries"
    ],
    "order": "impressions",
    "needs": [
      [
        "results"
      ]
    ],
    "looks_at": [
      "branded",
      "country",
      "device",
      "page_type",
      "position_from",
      "position_to",
      "query_group",
      "section",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, page",
        "explains": "query, and your page with most impressions for it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "rank",
        "kind": "count",
        "label": "rank",
        "explains": "your rank among the organic results",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "rank_within_reach",
        "kind": "count",
        "label": "within reach",
        "explains": "best position with no stronger page above",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "stronger_above",
        "kind": "count",
        "label": "stronger",
        "explains": "pages with as many referring domains or more",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "above",
        "kind": "count",
        "label": "above",
        "explains": "organic results above yours",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "fetched",
        "kind": "count",
        "label": "read",
        "explains": "competing pages that were fetched and read",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "out_of_range",
        "kind": "words",
        "label": "out of range",
        "explains": "measures of your page outside their range",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": false
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions in the period",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "average position, weighted by impressions; 1 is first",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      }
    ]
  },
  "competitor-queries": {
    "title": "Competitor queries",
    "question": "Which queries bring competing pages visits, and are they on your page?",
    "method": "competitor-queries",
    "claims": [
      "query",
      "queries"
    ],
    "order": "visits",
    "needs": [
      [
        "results"
      ],
      [
        "page-queries"
      ]
    ],
    "looks_at": [
      "country",
      "device",
      "page_type",
      "section",
      "text"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "text",
        "label": "query, page",
        "explains": "the query, and your page ranking below",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "visits",
        "kind": "amount",
        "label": "visits",
        "explains": "visits that the query brings the competing page",
        "unit": "visits a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "shown",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions of your page for it",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "exact_uses",
        "kind": "count",
        "label": "on your page",
        "explains": "exact uses on your page",
        "unit": "times",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "other_form_uses",
        "kind": "count",
        "label": "in other forms",
        "explains": "uses in other word forms",
        "unit": "times",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "their position",
        "explains": "position of the competing page",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "searches",
        "kind": "count",
        "label": "searches",
        "explains": "searches a month",
        "unit": "searches a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "won_by",
        "kind": "text",
        "label": "won by",
        "explains": "the competing page that it brings most visits",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "of_rival",
        "kind": "flag",
        "label": "their name",
        "explains": "whether the query contains the competitor's name",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "content-gaps": {
    "title": "Content gaps",
    "question": "What do people search around your topics that none of your pages answers?",
    "method": "content-gaps",
    "claims": [
      "page is missing",
      "pages are missing"
    ],
    "order": "searches",
    "needs": [
      [
        "crawl"
      ]
    ],
    "looks_at": [
      "country",
      "device",
      "min_impressions",
      "target",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "page for",
        "explains": "the most searched query of the gap",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "searches",
        "kind": "amount",
        "label": "searches",
        "explains": "searches a month of all its queries",
        "unit": "a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "number",
        "kind": "count",
        "label": "queries",
        "explains": "queries that one page could answer",
        "unit": "queries",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "ranking_queries",
        "kind": "count",
        "label": "you rank for",
        "explains": "number of these that your pages rank for",
        "unit": "queries",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "intent",
        "kind": "word",
        "label": "search intent",
        "explains": "what most searchers look for",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "ready_by",
        "kind": "day",
        "label": "ready by",
        "explains": "when a page for the coming season should be live",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "topic",
        "kind": "text",
        "label": "topic",
        "explains": "topic of its queries",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      },
      {
        "name": "peak_month",
        "kind": "count",
        "label": "peak",
        "explains": "the month with the most searches, 1 to 12",
        "unit": "month",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "country-gaps": {
    "title": "Country gaps",
    "question": "Which queries rank worse in one country than in the others?",
    "method": "country-gaps",
    "claims": [
      "gap",
      "gaps"
    ],
    "order": "impressions",
    "needs": [],
    "looks_at": [
      "branded",
      "country",
      "device",
      "evidence",
      "min_impressions",
      "page_type",
      "query_group",
      "section",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query",
        "explains": "what was searched for",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "country",
        "kind": "text",
        "label": "country",
        "explains": "country where it ranks worse (ISO 3166)",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "gap",
        "kind": "amount",
        "label": "gap",
        "explains": "positions worse than elsewhere",
        "unit": "places",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "average position, weighted by impressions; 1 is first",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "elsewhere",
        "kind": "position",
        "label": "elsewhere",
        "explains": "average position in all other countries",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions in the period",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "evidence",
        "kind": "grade",
        "label": "evidence",
        "explains": "how sure it is: firm (1 % false alarms), likely (10 %) or too little data",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "share_shown",
        "kind": "share",
        "label": "share there",
        "explains": "share of its impressions in that country",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "weeks",
        "kind": "count",
        "label": "weeks",
        "explains": "weeks with impressions both there and elsewhere",
        "unit": "weeks",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "drafts": {
    "title": "Drafts",
    "question": "What is being written, for which page and query, and how far is it?",
    "method": "drafts",
    "claims": [
      "draft",
      "drafts"
    ],
    "order": "changed_at",
    "needs": [],
    "looks_at": [
      "text"
    ],
    "columns": [
      {
        "name": "name",
        "kind": "text",
        "label": "draft",
        "explains": "name, and the page it is for",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "words",
        "kind": "count",
        "label": "words",
        "explains": "words of the text",
        "unit": "words",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "state",
        "kind": "word",
        "label": "state",
        "explains": "state of the draft",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "due",
        "kind": "day",
        "label": "due",
        "explains": "due date of its move",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "changed_at",
        "kind": "time",
        "label": "changed",
        "explains": "last change of the text",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "query",
        "kind": "text",
        "label": "query",
        "explains": "query it is written for",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      },
      {
        "name": "page",
        "kind": "text",
        "label": "page",
        "explains": "page it is for; empty: a new page",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      },
      {
        "name": "by",
        "kind": "text",
        "label": "begun by",
        "explains": "who started it",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      },
      {
        "name": "done_on",
        "kind": "day",
        "label": "done on",
        "explains": "day of publication",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "featured-snippets": {
    "title": "Featured snippets",
    "question": "Which featured snippets could you win, and what would it take?",
    "method": "featured-snippets",
    "claims": [
      "featured snippet",
      "featured snippets"
    ],
    "order": "gain",
    "needs": [
      [
        "results"
      ]
    ],
    "looks_at": [
      "branded",
      "country",
      "device",
      "page_type",
      "position_from",
      "position_to",
      "query_group",
      "section",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, page",
        "explains": "the query, and your page with the most impressions for it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "gain",
        "kind": "amount",
        "label": "opportunity",
        "explains": "clicks that the featured snippet would bring",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "opening",
        "kind": "flag",
        "label": "open",
        "explains": "another site has it, and you rank 2 to 10",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "kind",
        "kind": "word",
        "label": "kind",
        "explains": "the kind of answer",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "holder",
        "kind": "text",
        "label": "holder",
        "explains": "site that holds the featured snippet",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "rank",
        "kind": "count",
        "label": "rank",
        "explains": "your rank among the organic results",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "advice",
        "kind": "word",
        "label": "what to do",
        "explains": "what to do about it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lacking",
        "kind": "words",
        "label": "lacking",
        "explains": "what your page lacks for such an answer",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": false
      },
      {
        "name": "ours",
        "kind": "flag",
        "label": "yours",
        "explains": "whether you hold the featured snippet",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "lost_since",
        "kind": "day",
        "label": "lost since",
        "explains": "first capture in which you no longer hold it",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "captured",
        "kind": "day",
        "label": "captured",
        "explains": "day of the SERP capture",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions in the period",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "average position, weighted by impressions; 1 is first",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "landing-pages": {
    "title": "Landing pages",
    "question": "What do visits show about each page, compared with search?",
    "method": "landing-pages",
    "claims": [
      "page",
      "pages"
    ],
    "order": "sessions",
    "needs": [],
    "looks_at": [
      "branded",
      "compare",
      "country",
      "device",
      "evidence",
      "page_type",
      "query_group",
      "section",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "page",
        "kind": "page",
        "label": "page",
        "explains": "the address of the page",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period, and their change",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "average position, weighted by impressions; 1 is first",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "sessions",
        "kind": "count",
        "label": "visits",
        "explains": "organic visits in the period",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions in the period",
        "unit": "times in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "ctr",
        "kind": "share",
        "label": "CTR",
        "explains": "clicks divided by impressions",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      },
      {
        "name": "conversions",
        "kind": "amount",
        "label": "conversions",
        "explains": "conversions of organic visits",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "value",
        "kind": "money",
        "label": "value",
        "explains": "value of organic visits",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "bounce_rate",
        "kind": "share",
        "label": "bounce rate",
        "explains": "share of organic visits that bounced",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "expected_bounce_rate",
        "kind": "share",
        "label": "expected",
        "explains": "the bounce rate of pages of its type",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "sessions_per_click",
        "kind": "amount",
        "label": "visits per click",
        "explains": "organic visits for each click",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "seconds_per_session",
        "kind": "amount",
        "label": "seconds a visit",
        "explains": "seconds for each organic visit",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "conversions_per_click",
        "kind": "amount",
        "label": "conversions per click",
        "explains": "conversions for each click",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "value_per_click",
        "kind": "money",
        "label": "value per click",
        "explains": "value for each click",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "low-ctr": {
    "title": "Low click-through",
    "question": "Which rows get fewer clicks than their positions should bring?",
    "method": "evidence",
    "claims": [
      "row gets fewer clicks than its positions should bring",
      "rows get fewer clicks than their positions should bring"
    ],
    "order": "lost_month",
    "needs": [],
    "looks_at": [
      "branded",
      "by",
      "compare",
      "country",
      "decided",
      "device",
      "evidence",
      "explained",
      "min_impressions",
      "page_type",
      "position_from",
      "position_to",
      "query_group",
      "section",
      "target",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, page",
        "explains": "query, and the page that ranks for it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost clicks",
        "explains": "expected minus actual clicks, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "potential_month",
        "kind": "amount",
        "label": "potential clicks",
        "explains": "clicks that the target position would add, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions in the period",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "ctr",
        "kind": "share",
        "label": "CTR",
        "explains": "clicks divided by impressions",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "expected_ctr",
        "kind": "share",
        "label": "expected CTR",
        "explains": "CTR that this site usually gets at these positions",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "average position, weighted by impressions; 1 is first",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "evidence",
        "kind": "grade",
        "label": "evidence",
        "explains": "how sure it is: firm (1 % false alarms), likely (10 %) or too little data",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "taken_month",
        "kind": "amount",
        "label": "lost to SERP features",
        "explains": "clicks that SERP features above it take, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "expected_clicks",
        "kind": "amount",
        "label": "expected clicks",
        "explains": "clicks that this site usually gets at these positions",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "clicks_before",
        "kind": "count",
        "label": "clicks before",
        "explains": "clicks in the comparison period",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "mentions": {
    "title": "Mentions",
    "question": "Which pages say what another page is searched for, and do not link to it?",
    "method": "mentions",
    "claims": [
      "mention",
      "mentions"
    ],
    "order": "kind",
    "needs": [
      [
        "crawl"
      ]
    ],
    "looks_at": [
      "country",
      "device",
      "forms",
      "mention",
      "min_impressions",
      "page",
      "page_type",
      "phrase",
      "section",
      "target",
      "text"
    ],
    "columns": [
      {
        "name": "phrase",
        "kind": "text",
        "label": "phrase, page",
        "explains": "phrase, and the page that has it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "target",
        "kind": "page",
        "label": "means",
        "explains": "page whose main query it is",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "kind",
        "kind": "word",
        "label": "mention",
        "explains": "kind of mention",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "times",
        "kind": "count",
        "label": "times",
        "explains": "uses in running text, without a link",
        "unit": "times",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "exactly",
        "kind": "count",
        "label": "exactly",
        "explains": "exact uses among them",
        "unit": "times",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "in_links",
        "kind": "count",
        "label": "in links",
        "explains": "uses in anchor texts",
        "unit": "times",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "in_headings",
        "kind": "count",
        "label": "in headings",
        "explains": "uses in headings",
        "unit": "times",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "sentence",
        "kind": "text",
        "label": "sentence",
        "explains": "first sentence with it",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": false
      }
    ]
  },
  "missing-queries": {
    "title": "Missing queries",
    "question": "Which queries do pages get impressions for that are not on the page, or low on it?",
    "method": "missing-queries",
    "claims": [
      "query × page",
      "queries × pages"
    ],
    "order": "on_page",
    "needs": [
      [
        "crawl"
      ]
    ],
    "looks_at": [
      "country",
      "decided",
      "device",
      "min_impressions",
      "on_page",
      "page_type",
      "position_from",
      "position_to",
      "query_group",
      "section",
      "target",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, page",
        "explains": "query, and the page that ranks for it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "gain",
        "kind": "amount",
        "label": "opportunity",
        "explains": "expected minus actual clicks, and clicks that the target position would add",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "on_page",
        "kind": "word",
        "label": "on the page",
        "explains": "whether the query is on the page",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "exact_uses",
        "kind": "count",
        "label": "times",
        "explains": "exact uses on the page",
        "unit": "times",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "other_form_uses",
        "kind": "count",
        "label": "in other forms",
        "explains": "uses in other forms, in order and close together",
        "unit": "times",
        "low": true,
        "extra": true,
        "sorts": true
      },
      {
        "name": "first_use_share",
        "kind": "share",
        "label": "first at",
        "explains": "share of the page before its first use",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "first_word",
        "kind": "count",
        "label": "at word",
        "explains": "number of the word where it first appears",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "where",
        "kind": "words",
        "label": "where",
        "explains": "where it appears: title, main heading, heading, first 100 words, text, picture text, link",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": false
      },
      {
        "name": "per_thousand",
        "kind": "amount",
        "label": "in 1,000 words",
        "explains": "uses per 1,000 words of the page",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "competing_median",
        "kind": "amount",
        "label": "above us",
        "explains": "uses per 1,000 words of competing pages (median)",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions in the period",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "average position, weighted by impressions; 1 is first",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "words",
        "kind": "count",
        "label": "words",
        "explains": "words on the page",
        "unit": "words",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "what_to_do",
        "kind": "text",
        "label": "what to do",
        "explains": "what to do about it",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "moves": {
    "title": "Moves",
    "question": "What was decided, by whom, until when, and what came of it?",
    "method": "moves",
    "claims": [
      "move",
      "moves"
    ],
    "order": "rank",
    "needs": [],
    "looks_at": [
      "state",
      "text"
    ],
    "columns": [
      {
        "name": "kind_words",
        "kind": "text",
        "label": "what, on what",
        "explains": "task, with its query and page",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "gain_cautious",
        "kind": "amount",
        "label": "opportunity",
        "explains": "cautious gain in clicks a month, as estimated when the move was made",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "rank",
        "kind": "amount",
        "label": "per hour",
        "explains": "cautious gain in clicks a month per hour of work",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "state",
        "kind": "word",
        "label": "state",
        "explains": "state of the draft",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "due",
        "kind": "day",
        "label": "who, due",
        "explains": "who does it, and the due date",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "result_clicks",
        "kind": "amount",
        "label": "result",
        "explains": "clicks a day beyond those of control pages; saved for good",
        "unit": "clicks a day",
        "low": false,
        "extra": false,
        "sorts": true
      }
    ]
  },
  "needs-links": {
    "title": "Pages that need links",
    "question": "Which pages need internal links, which can link out, and which have broken links?",
    "method": "links-between-pages",
    "claims": [
      "page",
      "pages"
    ],
    "order": "action",
    "needs": [
      [
        "crawl",
        "page-links"
      ]
    ],
    "looks_at": [
      "action",
      "country",
      "decided",
      "device",
      "min_impressions",
      "page_type",
      "section",
      "target",
      "text"
    ],
    "columns": [
      {
        "name": "page",
        "kind": "page",
        "label": "page",
        "explains": "the address of the page",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "action",
        "kind": "word",
        "label": "needs",
        "explains": "what its links need",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "authority_share",
        "kind": "share",
        "label": "authority",
        "explains": "share of the site's link authority",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "opportunity_share",
        "kind": "share",
        "label": "opportunity",
        "explains": "share of the site's opportunity",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "links_in",
        "kind": "count",
        "label": "links in",
        "explains": "internal pages that link to it",
        "unit": "pages",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "links_in_body",
        "kind": "count",
        "label": "in bodies",
        "explains": "of these, with the link in the body",
        "unit": "pages",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "links_out",
        "kind": "count",
        "label": "links out",
        "explains": "internal pages it links to",
        "unit": "pages",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "depth",
        "kind": "count",
        "label": "crawl depth",
        "explains": "clicks from the start of the crawl",
        "unit": "clicks",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "problems",
        "kind": "words",
        "label": "problems",
        "explains": "what is wrong with its links",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": false
      },
      {
        "name": "links_out_body",
        "kind": "count",
        "label": "out, in body",
        "explains": "internal pages it links to in the body",
        "unit": "pages",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "anchors",
        "kind": "count",
        "label": "anchors",
        "explains": "different anchor texts of links to it",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "referring_domains",
        "kind": "count",
        "label": "referring domains",
        "explains": "other sites that link to it",
        "unit": "sites",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "wrong",
        "kind": "count",
        "label": "broken links",
        "explains": "body links to redirects and missing pages",
        "unit": "links",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "opportunity_month",
        "kind": "amount",
        "label": "opportunity",
        "explains": "opportunity: lost and potential clicks a month",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "type",
        "kind": "text",
        "label": "page type",
        "explains": "the type of the page",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "outperformers": {
    "title": "Outperformers",
    "question": "Which rows get more clicks than their positions should bring, and are not first yet?",
    "method": "evidence",
    "claims": [
      "row gets more clicks than its positions should bring",
      "rows get more clicks than their positions should bring"
    ],
    "order": "potential_month",
    "needs": [],
    "looks_at": [
      "branded",
      "by",
      "compare",
      "country",
      "decided",
      "device",
      "evidence",
      "explained",
      "min_impressions",
      "page_type",
      "position_from",
      "position_to",
      "query_group",
      "section",
      "target",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, page",
        "explains": "query, and the page that ranks for it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "potential_month",
        "kind": "amount",
        "label": "potential clicks",
        "explains": "clicks that the target position would add, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost clicks",
        "explains": "expected minus actual clicks, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions in the period",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "ctr",
        "kind": "share",
        "label": "CTR",
        "explains": "clicks divided by impressions",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "expected_ctr",
        "kind": "share",
        "label": "expected CTR",
        "explains": "CTR that this site usually gets at these positions",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "average position, weighted by impressions; 1 is first",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "evidence",
        "kind": "grade",
        "label": "evidence",
        "explains": "how sure it is: firm (1 % false alarms), likely (10 %) or too little data",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "taken_month",
        "kind": "amount",
        "label": "lost to SERP features",
        "explains": "clicks that SERP features above it take, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "expected_clicks",
        "kind": "amount",
        "label": "expected clicks",
        "explains": "clicks that this site usually gets at these positions",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "clicks_before",
        "kind": "count",
        "label": "clicks before",
        "explains": "clicks in the comparison period",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "overlapping-pages": {
    "title": "Overlapping pages",
    "question": "Which pages are shown for the same queries, and do they say the same?",
    "method": "overlapping-pages",
    "claims": [
      "pair of pages is shown for the same",
      "pairs of pages are shown for the same"
    ],
    "order": "shared_queries",
    "needs": [],
    "looks_at": [
      "branded",
      "country",
      "device",
      "min_impressions",
      "page_type",
      "section",
      "text"
    ],
    "columns": [
      {
        "name": "page",
        "kind": "page",
        "label": "page",
        "explains": "the address of the page",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "other",
        "kind": "page",
        "label": "other page",
        "explains": "other page that ranks for the same queries",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "kind",
        "kind": "word",
        "label": "kind",
        "explains": "one subject twice, or two topics treated as one",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "shared_queries",
        "kind": "share",
        "label": "shared queries",
        "explains": "share of queries that both rank for",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "say",
        "kind": "share",
        "label": "say",
        "explains": "similarity of their texts",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "queries",
        "kind": "count",
        "label": "queries",
        "explains": "queries that both rank for",
        "unit": "queries",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions in the period",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      }
    ]
  },
  "page-two-candidates": {
    "title": "Page-two candidates",
    "question": "Which pages on page two cover most of what competing pages cover, and need the least work?",
    "method": "page-two-candidates",
    "claims": [
      "row",
      "rows"
    ],
    "order": "coverage",
    "needs": [
      [
        "results"
      ],
      [
        "above"
      ]
    ],
    "looks_at": [
      "country",
      "device",
      "min_impressions",
      "page_type",
      "query_group",
      "section",
      "target",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, page",
        "explains": "the query, and your page",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "where it ranks",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "coverage",
        "kind": "share",
        "label": "term coverage",
        "explains": "share of the related terms, by weight",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "coverage_above_median",
        "kind": "share",
        "label": "above",
        "explains": "term coverage of the median competing page",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "gain",
        "kind": "amount",
        "label": "potential clicks",
        "explains": "clicks that a better position would add",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "missing",
        "kind": "words",
        "label": "missing",
        "explains": "essential and common terms that the page lacks",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": false
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions in search",
        "unit": "in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "competing_pages",
        "kind": "count",
        "label": "compared",
        "explains": "competing pages that were fetched",
        "unit": "pages",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "pages": {
    "title": "Pages",
    "question": "Which pages lose most, or could gain most, and by which lever?",
    "method": "the-account-of-a-page",
    "claims": [
      "page",
      "pages"
    ],
    "order": "gain_month",
    "needs": [],
    "looks_at": [
      "branded",
      "compare",
      "country",
      "decided",
      "device",
      "evidence",
      "min_impressions",
      "page_type",
      "position_from",
      "position_to",
      "query_group",
      "section",
      "target",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "page",
        "kind": "page",
        "label": "page",
        "explains": "address, with its clicks and opportunity",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "gain_month",
        "kind": "amount",
        "label": "opportunity",
        "explains": "lost and potential clicks together, by a cautious estimate",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost clicks",
        "explains": "expected minus actual clicks, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "potential_month",
        "kind": "amount",
        "label": "potential clicks",
        "explains": "clicks that the target position would add, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "worth",
        "kind": "money",
        "label": "worth",
        "explains": "what the opportunity is worth a month",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period, and their change",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "average position, weighted by impressions; 1 is first",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "sessions",
        "kind": "count",
        "label": "visits",
        "explains": "organic visits in the period",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions in the period",
        "unit": "times in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "ctr",
        "kind": "share",
        "label": "CTR",
        "explains": "clicks divided by impressions",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      },
      {
        "name": "conversions",
        "kind": "amount",
        "label": "conversions",
        "explains": "conversions of organic visits",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "value",
        "kind": "money",
        "label": "value",
        "explains": "value of organic visits",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "snippet",
        "kind": "amount",
        "label": "by snippet",
        "explains": "lost clicks that a better snippet could win",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "unite",
        "kind": "amount",
        "label": "by uniting",
        "explains": "lost clicks that resolving clashes could win",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "rank",
        "kind": "amount",
        "label": "by position",
        "explains": "potential clicks at a better position",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "taken",
        "kind": "amount",
        "label": "lost to SERP features",
        "explains": "clicks that SERP features above it take",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "query-groups": {
    "title": "Groups",
    "question": "Which subjects gain and lose, and why?",
    "method": "the-account-of-a-page",
    "claims": [
      "group",
      "groups"
    ],
    "order": "gain_month",
    "needs": [],
    "looks_at": [
      "branded",
      "compare",
      "country",
      "device",
      "min_impressions",
      "page_type",
      "position_from",
      "position_to",
      "query_group",
      "section",
      "target",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "group",
        "kind": "text",
        "label": "group",
        "explains": "the query group",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "gain_month",
        "kind": "amount",
        "label": "opportunity",
        "explains": "lost and potential clicks, cautiously",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost clicks",
        "explains": "expected minus actual clicks, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "potential_month",
        "kind": "amount",
        "label": "potential clicks",
        "explains": "clicks that the target position would add, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "queries",
        "kind": "count",
        "label": "queries",
        "explains": "queries in the group",
        "unit": "queries",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period, and their change",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions in the period",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "ctr",
        "kind": "share",
        "label": "CTR",
        "explains": "clicks divided by impressions",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "average position, weighted by impressions; 1 is first",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      }
    ]
  },
  "query-page-mismatch": {
    "title": "Query–page mismatch",
    "question": "Which rows within reach rank with a page that does not cover the query?",
    "method": "fit",
    "claims": [
      "row within reach is on a page that says the query loosely or not at all",
      "rows within reach are on pages that say the query loosely or not at all"
    ],
    "order": "potential_month",
    "needs": [],
    "looks_at": [
      "branded",
      "by",
      "compare",
      "country",
      "decided",
      "device",
      "evidence",
      "explained",
      "min_impressions",
      "page_type",
      "position_from",
      "position_to",
      "query_group",
      "section",
      "target",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, page",
        "explains": "query, and the page that ranks for it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "potential_month",
        "kind": "amount",
        "label": "potential clicks",
        "explains": "clicks that the target position would add, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost clicks",
        "explains": "expected minus actual clicks, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions in the period",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "ctr",
        "kind": "share",
        "label": "CTR",
        "explains": "clicks divided by impressions",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "expected_ctr",
        "kind": "share",
        "label": "expected CTR",
        "explains": "CTR that this site usually gets at these positions",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "average position, weighted by impressions; 1 is first",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "evidence",
        "kind": "grade",
        "label": "evidence",
        "explains": "how sure it is: firm (1 % false alarms), likely (10 %) or too little data",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "taken_month",
        "kind": "amount",
        "label": "lost to SERP features",
        "explains": "clicks that SERP features above it take, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "expected_clicks",
        "kind": "amount",
        "label": "expected clicks",
        "explains": "clicks that this site usually gets at these positions",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "clicks_before",
        "kind": "count",
        "label": "clicks before",
        "explains": "clicks in the comparison period",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "sections": {
    "title": "Sections",
    "question": "Which directories of the site earn, lose, and could gain most?",
    "method": "sections",
    "claims": [
      "section",
      "sections"
    ],
    "order": "",
    "needs": [],
    "looks_at": [
      "branded",
      "compare",
      "country",
      "device",
      "min_impressions",
      "page_type",
      "position_from",
      "position_to",
      "query_group",
      "section",
      "target",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "section",
        "kind": "text",
        "label": "section",
        "explains": "section (folder)",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "pages",
        "kind": "count",
        "label": "pages",
        "explains": "pages in and below it",
        "unit": "pages",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks of all its pages",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions of all its pages",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "ctr",
        "kind": "share",
        "label": "CTR",
        "explains": "clicks divided by impressions of all its pages",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "average position of all its pages",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "sessions",
        "kind": "count",
        "label": "visits",
        "explains": "organic visits of all its pages",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "bounces",
        "kind": "count",
        "label": "bounces",
        "explains": "organic visits that bounced of all its pages",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "bounce_rate",
        "kind": "share",
        "label": "bounce rate",
        "explains": "share of organic visits that bounced of all its pages",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "seconds",
        "kind": "amount",
        "label": "seconds",
        "explains": "seconds of organic visits of all its pages",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "conversions",
        "kind": "amount",
        "label": "conversions",
        "explains": "conversions of organic visits of all its pages",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "value",
        "kind": "money",
        "label": "value",
        "explains": "value of organic visits of all its pages",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost",
        "kind": "amount",
        "label": "lost clicks",
        "explains": "clicks missing at their current positions of all its pages",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "potential",
        "kind": "amount",
        "label": "potential clicks",
        "explains": "clicks that better positions would bring of all its pages",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "opportunity",
        "kind": "amount",
        "label": "opportunity",
        "explains": "lost and potential clicks together of all its pages",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "gain",
        "kind": "amount",
        "label": "opportunity at least",
        "explains": "lost and potential clicks by a cautious estimate of all its pages",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost clicks",
        "explains": "expected minus actual clicks, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "potential_month",
        "kind": "amount",
        "label": "potential clicks",
        "explains": "clicks that the target position would add, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      }
    ]
  },
  "serp-captures": {
    "title": "SERP captures",
    "question": "What is above your results on SERPs, and what does it cost?",
    "method": "serp-captures",
    "claims": [
      "SERP",
      "SERPs"
    ],
    "order": "impressions",
    "needs": [
      [
        "results"
      ]
    ],
    "looks_at": [
      "branded",
      "country",
      "device",
      "explained",
      "page_type",
      "position_from",
      "position_to",
      "query_group",
      "section",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, page",
        "explains": "query, and your page with most impressions for it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "captured",
        "kind": "day",
        "label": "captured",
        "explains": "when the SERP was captured",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "average position, weighted by impressions; 1 is first",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "blocks_above",
        "kind": "count",
        "label": "blocks above",
        "explains": "blocks above your result",
        "unit": "blocks",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "screens_down",
        "kind": "amount",
        "label": "screens down",
        "explains": "screens to scroll to your result: 800 pixels each, 640 on a phone",
        "unit": "screens",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions in the period",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "expected_clicks",
        "kind": "amount",
        "label": "expected clicks",
        "explains": "clicks that this site usually gets at these positions",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "expected_with_features",
        "kind": "amount",
        "label": "expected with features",
        "explains": "expected clicks with the SERP features above it",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "explained",
        "kind": "flag",
        "label": "explained",
        "explains": "whether SERP features above explain the low CTR",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "taken_month",
        "kind": "amount",
        "label": "lost to SERP features",
        "explains": "clicks that SERP features above it take, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "has_snippet",
        "kind": "flag",
        "label": "box is yours",
        "explains": "whether you hold the featured snippet",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "striking-distance": {
    "title": "Striking distance",
    "question": "Which rows are within reach of a better position?",
    "method": "lost-and-potential-clicks",
    "claims": [
      "row would gain from a better position",
      "rows would gain from a better position"
    ],
    "order": "potential_month",
    "needs": [],
    "looks_at": [
      "branded",
      "by",
      "compare",
      "country",
      "decided",
      "device",
      "evidence",
      "explained",
      "min_impressions",
      "page_type",
      "position_from",
      "position_to",
      "query_group",
      "section",
      "target",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, page",
        "explains": "query, and the page that ranks for it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "potential_month",
        "kind": "amount",
        "label": "potential clicks",
        "explains": "clicks that the target position would add, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost clicks",
        "explains": "expected minus actual clicks, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "impressions",
        "explains": "impressions in the period",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "ctr",
        "kind": "share",
        "label": "CTR",
        "explains": "clicks divided by impressions",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "expected_ctr",
        "kind": "share",
        "label": "expected CTR",
        "explains": "CTR that this site usually gets at these positions",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "average position, weighted by impressions; 1 is first",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "evidence",
        "kind": "grade",
        "label": "evidence",
        "explains": "how sure it is: firm (1 % false alarms), likely (10 %) or too little data",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "taken_month",
        "kind": "amount",
        "label": "lost to SERP features",
        "explains": "clicks that SERP features above it take, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "expected_clicks",
        "kind": "amount",
        "label": "expected clicks",
        "explains": "clicks that this site usually gets at these positions",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "clicks_before",
        "kind": "count",
        "label": "clicks before",
        "explains": "clicks in the comparison period",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "suggested-links": {
    "title": "Suggested links",
    "question": "From which pages should a page be linked to, in which sentence, and what would it do?",
    "method": "suggested-links",
    "claims": [
      "link is suggested",
      "links are suggested"
    ],
    "order": "",
    "needs": [
      [
        "crawl",
        "page-links"
      ]
    ],
    "looks_at": [
      "country",
      "decided",
      "device",
      "min_impressions",
      "page",
      "page_type",
      "section",
      "target",
      "text"
    ],
    "columns": [
      {
        "name": "from",
        "kind": "page",
        "label": "link from, to",
        "explains": "page to edit, and the link target",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "anchor",
        "kind": "text",
        "label": "anchor",
        "explains": "anchor text",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": false
      },
      {
        "name": "sentence",
        "kind": "text",
        "label": "sentence",
        "explains": "where the link can go",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": false
      },
      {
        "name": "phrase",
        "kind": "text",
        "label": "mentions",
        "explains": "phrase about the target that the page already has",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "similarity",
        "kind": "share",
        "label": "alike",
        "explains": "similarity of the two pages",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "authority_passed",
        "kind": "share",
        "label": "passes on",
        "explains": "share of authority that the link would pass on",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "authority_share",
        "kind": "share",
        "label": "authority",
        "explains": "link authority of the target",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "authority_after",
        "kind": "share",
        "label": "after",
        "explains": "link authority of the target after the whole plan",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "choice",
        "kind": "word",
        "label": "decided",
        "explains": "whether it was accepted or refused",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "note",
        "kind": "text",
        "label": "why",
        "explains": "why it was refused",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "titles": {
    "title": "Titles",
    "question": "Which titles and descriptions are missing, doubled, cut off, or do not say what the page is searched for?",
    "method": "titles-and-descriptions",
    "claims": [
      "page",
      "pages"
    ],
    "order": "lost_month",
    "needs": [
      [
        "crawl"
      ]
    ],
    "looks_at": [
      "branded",
      "country",
      "decided",
      "device",
      "min_impressions",
      "page_type",
      "problem",
      "section",
      "target",
      "text"
    ],
    "columns": [
      {
        "name": "page",
        "kind": "page",
        "label": "page, title",
        "explains": "the page and its title",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost clicks",
        "explains": "expected minus actual clicks, a month",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "problems",
        "kind": "words",
        "label": "problems",
        "explains": "what is wrong with the title or the description",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": false
      },
      {
        "name": "title_characters",
        "kind": "count",
        "label": "characters",
        "explains": "characters of the title",
        "unit": "characters",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "title_pixels",
        "kind": "amount",
        "label": "width",
        "explains": "width of the title in pixels; cut off at 600",
        "unit": "pixels",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "description_characters",
        "kind": "count",
        "label": "description characters",
        "explains": "characters of the description",
        "unit": "characters",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "description_pixels",
        "kind": "amount",
        "label": "description width",
        "explains": "width of the description in pixels; cut off at 960",
        "unit": "pixels",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "main_query",
        "kind": "query",
        "label": "main query",
        "explains": "query with most clicks and opportunity, or your choice",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "what_to_do",
        "kind": "text",
        "label": "what to do",
        "explains": "what to do first",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "type",
        "kind": "text",
        "label": "page type",
        "explains": "the type of the page",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "topic-queries": {
    "title": "Topic queries",
    "question": "Which queries belong to a topic, and which of your pages rank for them?",
    "method": "topics",
    "claims": [
      "query",
      "queries"
    ],
    "order": "",
    "needs": [],
    "looks_at": [
      "country",
      "device",
      "position_from",
      "position_to",
      "query_group",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query",
        "explains": "query",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "topic",
        "kind": "text",
        "label": "topic",
        "explains": "topic of its queries",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      },
      {
        "name": "searches",
        "kind": "amount",
        "label": "searches",
        "explains": "searches a month",
        "unit": "a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "shown",
        "kind": "amount",
        "label": "impressions",
        "explains": "impressions of your pages",
        "unit": "times a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "page",
        "kind": "page",
        "label": "your page",
        "explains": "your page with the most impressions for it",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "where it ranks",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "amount",
        "label": "clicks",
        "explains": "clicks of your pages",
        "unit": "a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "fit",
        "kind": "word",
        "label": "fit",
        "explains": "how well the page covers the query",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": false
      },
      {
        "name": "intent",
        "kind": "word",
        "label": "intent",
        "explains": "what most searchers look for",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "topics": {
    "title": "Topics",
    "question": "What do people search for around this site, when in the year, and what do we win of it?",
    "method": "topics",
    "claims": [
      "topic",
      "topics"
    ],
    "order": "",
    "needs": [],
    "looks_at": [
      "country",
      "device",
      "min_impressions",
      "target",
      "text",
      "topic"
    ],
    "columns": [
      {
        "name": "topic",
        "kind": "text",
        "label": "topic",
        "explains": "its most searched query, or the name you gave it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "searches",
        "kind": "amount",
        "label": "searches",
        "explains": "searches a month",
        "unit": "a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "months",
        "kind": "shape",
        "label": "year",
        "explains": "searches of each month relative to the mean",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": false
      },
      {
        "name": "ready_by",
        "kind": "day",
        "label": "ready by",
        "explains": "when a page for the coming season should be live",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "intent",
        "kind": "word",
        "label": "search intent",
        "explains": "what most searchers look for",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      },
      {
        "name": "share_won",
        "kind": "share",
        "label": "won",
        "explains": "your clicks divided by known searches",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "opportunity_month",
        "kind": "amount",
        "label": "opportunity",
        "explains": "lost and potential clicks",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "queries",
        "kind": "count",
        "label": "queries",
        "explains": "queries that belong to it",
        "unit": "queries",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "pages",
        "kind": "count",
        "label": "pages",
        "explains": "your pages that rank for it",
        "unit": "pages",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "position",
        "explains": "average position of your pages",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "amount",
        "label": "clicks",
        "explains": "clicks of your pages",
        "unit": "a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "peak_month",
        "kind": "count",
        "label": "peak",
        "explains": "the month with the most searches, 1 to 12",
        "unit": "month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "price_per_click",
        "kind": "money",
        "label": "price",
        "explains": "price of an ad click",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "competition",
        "kind": "amount",
        "label": "competition",
        "explains": "referring domains of the median page",
        "unit": "sites",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "instead",
        "kind": "words",
        "label": "who ranks",
        "explains": "sites on captured SERPs",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": false
      },
      {
        "name": "rests_on",
        "kind": "word",
        "label": "rests on",
        "explains": "what its queries have in common",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "trials": {
    "title": "Trials",
    "question": "Which changes are tried, what could be seen at all, and what came of them?",
    "method": "trials",
    "claims": [
      "trial",
      "trials"
    ],
    "order": "first_day",
    "needs": [],
    "looks_at": [
      "text"
    ],
    "columns": [
      {
        "name": "name",
        "kind": "text",
        "label": "trial",
        "explains": "name, and the change",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "changed",
        "kind": "count",
        "label": "changed",
        "explains": "number of changed pages or rows",
        "unit": "pages",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "state",
        "kind": "word",
        "label": "state",
        "explains": "state of the trial",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "until",
        "kind": "day",
        "label": "until",
        "explains": "last day of the trial",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "effect",
        "kind": "amount",
        "label": "effect",
        "explains": "the result, as a share or in positions",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "p_value",
        "kind": "rate",
        "label": "p",
        "explains": "probability that chance goes as far",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "design",
        "kind": "word",
        "label": "design",
        "explains": "before/after test, or randomised test",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "measure",
        "kind": "word",
        "label": "measure",
        "explains": "measure of the trial",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "first_day",
        "kind": "day",
        "label": "from",
        "explains": "the day of the change",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "smallest_visible",
        "kind": "amount",
        "label": "detectable",
        "explains": "smallest detectable effect",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "by",
        "kind": "text",
        "label": "begun by",
        "explains": "who started it",
        "unit": "",
        "low": true,
        "extra": true,
        "sorts": true
      }
    ]
  }
} as const;

export const TERMS = {
  "firm": "At most 1 in 100 of such rows is a false alarm.",
  "likely": "At most 1 in 10 of such rows is a false alarm.",
  "too little data": "There are too few clicks or impressions to tell this from chance.",
  "clash": "Two or more of your pages compete for one query (cannibalisation).",
  "alternating": "The pages take turns: the best one changes again and again (a relay).",
  "split": "The pages are shown together and share what one page could win.",
  "double listing": "Two of your pages are on page one together: a strength, not a problem.",
  "wrong page ranks": "The page shown most is not the page about this query (an understudy).",
  "unite": "Merge the pages into the leading page and redirect the others.",
  "point": "Add a canonical link from the other page to the leading page.",
  "refocus": "Reword the other page so that it is about its own query.",
  "feed": "Link to the leading page, so that it ranks instead of the other.",
  "retire": "Remove the other page from the index.",
  "accept": "Leave the pages as they are.",
  "lead": "The page that should rank for the query.",
  "move": "One task with its page and query, who does it, when, and its measured result.",
  "trial": "A change with its question asked beforehand, measured against control pages.",
  "dismiss": "Hide this row, with a reason. It can be restored at any time.",
  "snooze": "Hide this row until a day you choose.",
  "field": "Every query as a dot: position across, CTR up, and the curve of your site.",
  "ledger": "What a page earns now, and what each kind of improvement could add, on one scale.",
  "exchange": "Each page by its share of link authority and its share of opportunity.",
  "strip": "A page from top to bottom, fifty words a square; filled squares contain the query.",
  "sheet": "The SERP to scale, with the place where the first screen ends.",
  "board": "Topics down, months across; darker squares have more searches.",
  "lots": "The effect of the change among the effects of control pages that changed nothing.",
  "breaks": "Weeks in which clicks or impressions changed their level for good.",
  "cliff": "Several pages whose level changed in the same week.",
  "missing": "The query is not in the page's title, headings or text.",
  "other forms": "The page has the words of the query, in other forms and close together.",
  "low on the page": "The query first appears in the second half of the text.",
  "on the page": "The page has the query word for word in its first half or in a heading.",
  "close": "Title, heading or address have all words of the query.",
  "loose": "Title, heading or address have some words of the query.",
  "off": "Title, heading and address have few or none of the query's words.",
  "explained": "SERP features above the result explain the low CTR, so the snippet is not the cause.",
  "needs links": "The page has much to gain and little link authority.",
  "can link out": "The page has more link authority than opportunity: link from it.",
  "fix": "The page has links to redirects or missing pages."
} as const;
