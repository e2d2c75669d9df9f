// Made by manage.py openapi from the declarations of findings; do not change by hand.
export const CATALOG = {
  "breaks": {
    "title": "Breaks and cliffs",
    "question": "Which pages, sections, or the site as a whole changed their level, when, and near which event?",
    "method": "breaks",
    "claims": [
      "break",
      "breaks"
    ],
    "order": "",
    "looks_at": [
      "branded",
      "country",
      "device",
      "level",
      "measure",
      "page_type",
      "query_group",
      "section",
      "text"
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
        "explains": "by how much of the level before",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "before",
        "kind": "amount",
        "label": "before",
        "explains": "a week before the break",
        "unit": "a week",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "after",
        "kind": "amount",
        "label": "after",
        "explains": "a week after the break",
        "unit": "a week",
        "low": false,
        "extra": false,
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
    "looks_at": [
      "branded",
      "by",
      "compare",
      "country",
      "device",
      "page_type",
      "query_group",
      "section",
      "text"
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
        "label": "clicks then",
        "explains": "clicks in the days compared with",
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
        "explains": "clicks now less clicks then",
        "unit": "clicks",
        "low": true,
        "extra": false,
        "sorts": true
      }
    ]
  },
  "clashes": {
    "title": "Queries fought over",
    "question": "Which queries do my pages fight over, who should lead, and what should be done?",
    "method": "clashes",
    "claims": [
      "query is fought over",
      "queries are fought over"
    ],
    "order": "loss_month",
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
      "text"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, who should lead",
        "explains": "the query, and the page proposed or chosen to own it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "kind",
        "kind": "word",
        "label": "kind",
        "explains": "double (a strength), relay, split or understudy",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "hand_offs",
        "kind": "amount",
        "label": "hand-offs",
        "explains": "how often the best page changes, in 100 days",
        "unit": "in 100 days",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "loss_month",
        "kind": "amount",
        "label": "lost",
        "explains": "clicks a month that the clash costs",
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
        "label": "shown",
        "explains": "how often contenders were shown in the period",
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
  "country-gaps": {
    "title": "Country gaps",
    "question": "Which queries rank worse in one country than in the others?",
    "method": "country-gaps",
    "claims": [
      "gap",
      "gaps"
    ],
    "order": "impressions",
    "looks_at": [
      "branded",
      "country",
      "device",
      "evidence",
      "min_impressions",
      "page_type",
      "query_group",
      "section",
      "text"
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
        "explains": "where it ranks worse: two letters as in ISO 3166",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "gap",
        "kind": "amount",
        "label": "gap",
        "explains": "by how many places it ranks worse there",
        "unit": "places",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "pos.",
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
        "explains": "its average position in all other countries",
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
        "label": "shown",
        "explains": "how often it was shown in search in the period",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "evidence",
        "kind": "grade",
        "label": "evidence",
        "explains": "how sure it is: firm (1 % false alarms), likely (10 %) or thin",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "share_shown",
        "kind": "share",
        "label": "share there",
        "explains": "how much of what it was shown is in that country",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "weeks",
        "kind": "count",
        "label": "weeks",
        "explains": "weeks in which it was shown both there and elsewhere",
        "unit": "weeks",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "landing-pages": {
    "title": "Landing pages",
    "question": "What do visits say of each page beside what search says?",
    "method": "landing-pages",
    "claims": [
      "page",
      "pages"
    ],
    "order": "sessions",
    "looks_at": [
      "branded",
      "compare",
      "country",
      "device",
      "evidence",
      "page_type",
      "query_group",
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
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period, and the change against the days compared with",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "pos.",
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
        "label": "shown",
        "explains": "how often it was shown in search in the period",
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
        "name": "usual_bounce_rate",
        "kind": "share",
        "label": "usual",
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
    "looks_at": [
      "branded",
      "by",
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
      "text"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, page",
        "explains": "the query and the page shown for it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost",
        "explains": "clicks a month: what is missing where it stands",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "reachable_month",
        "kind": "amount",
        "label": "reachable",
        "explains": "clicks a month: what a better place would bring, if it got there",
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
        "label": "shown",
        "explains": "how often it was shown in search in the period",
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
        "label": "usual",
        "explains": "the CTR that this site usually gets at the row's positions",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "pos.",
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
        "explains": "how sure it is: firm (1 % false alarms), likely (10 %) or thin",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "expected_clicks",
        "kind": "amount",
        "label": "usual clicks",
        "explains": "the clicks that this site usually gets at the row's positions",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "clicks_before",
        "kind": "count",
        "label": "clicks then",
        "explains": "clicks in the days compared with",
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
    "looks_at": [
      "state",
      "text"
    ],
    "columns": [
      {
        "name": "kind_words",
        "kind": "text",
        "label": "what, on what",
        "explains": "the move, and the query and page it is about",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "gain_cautious",
        "kind": "amount",
        "label": "to gain",
        "explains": "clicks a month to gain at least, as told when the move was made",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "rank",
        "kind": "amount",
        "label": "per hour",
        "explains": "clicks a month to gain at least for each hour of effort",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "state",
        "kind": "word",
        "label": "state",
        "explains": "how far it is",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "due",
        "kind": "day",
        "label": "who, due",
        "explains": "who does it, and until when",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "came_of_it",
        "kind": "amount",
        "label": "result",
        "explains": "clicks a day beyond what untouched ones did; kept on record",
        "unit": "clicks a day",
        "low": false,
        "extra": false,
        "sorts": true
      }
    ]
  },
  "off-fit": {
    "title": "Off fit",
    "question": "Which rows within reach stand on pages that do not say the query?",
    "method": "fit",
    "claims": [
      "row within reach is on a page that says the query loosely or not at all",
      "rows within reach are on pages that say the query loosely or not at all"
    ],
    "order": "reachable_month",
    "looks_at": [
      "branded",
      "by",
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
      "text"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, page",
        "explains": "the query and the page shown for it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "reachable_month",
        "kind": "amount",
        "label": "reachable",
        "explains": "clicks a month: what a better place would bring, if it got there",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost",
        "explains": "clicks a month: what is missing where it stands",
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
        "label": "shown",
        "explains": "how often it was shown in search in the period",
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
        "label": "usual",
        "explains": "the CTR that this site usually gets at the row's positions",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "pos.",
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
        "explains": "how sure it is: firm (1 % false alarms), likely (10 %) or thin",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "expected_clicks",
        "kind": "amount",
        "label": "usual clicks",
        "explains": "the clicks that this site usually gets at the row's positions",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "clicks_before",
        "kind": "count",
        "label": "clicks then",
        "explains": "clicks in the days compared with",
        "unit": "",
        "low": false,
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
    "order": "reachable_month",
    "looks_at": [
      "branded",
      "by",
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
      "text"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, page",
        "explains": "the query and the page shown for it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "reachable_month",
        "kind": "amount",
        "label": "reachable",
        "explains": "clicks a month: what a better place would bring, if it got there",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost",
        "explains": "clicks a month: what is missing where it stands",
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
        "label": "shown",
        "explains": "how often it was shown in search in the period",
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
        "label": "usual",
        "explains": "the CTR that this site usually gets at the row's positions",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "pos.",
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
        "explains": "how sure it is: firm (1 % false alarms), likely (10 %) or thin",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "expected_clicks",
        "kind": "amount",
        "label": "usual clicks",
        "explains": "the clicks that this site usually gets at the row's positions",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "clicks_before",
        "kind": "count",
        "label": "clicks then",
        "explains": "clicks in the days compared with",
        "unit": "",
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
      "text"
    ],
    "columns": [
      {
        "name": "page",
        "kind": "page",
        "label": "page",
        "explains": "the address, and its clicks beside what could be gained",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "gain_month",
        "kind": "amount",
        "label": "to gain",
        "explains": "lost and reachable together, by a cautious count",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost",
        "explains": "clicks a month: what is missing where it stands",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "reachable_month",
        "kind": "amount",
        "label": "reachable",
        "explains": "clicks a month: what a better place would bring, if it got there",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "worth",
        "kind": "money",
        "label": "worth",
        "explains": "what is at stake is worth in the period",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period, and the change against the days compared with",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "pos.",
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
        "label": "shown",
        "explains": "how often it was shown in search in the period",
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
        "explains": "lost: clicks by a better snippet",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "unite",
        "kind": "amount",
        "label": "by uniting",
        "explains": "lost: clicks by settling clashes",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "rank",
        "kind": "amount",
        "label": "by position",
        "explains": "reachable: clicks by a better position, if it got there",
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
      "text"
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
        "label": "to gain",
        "explains": "lost and reachable together, by a cautious count",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost",
        "explains": "clicks a month: what is missing where it stands",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "reachable_month",
        "kind": "amount",
        "label": "reachable",
        "explains": "clicks a month: what a better place would bring, if it got there",
        "unit": "clicks a month",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "queries",
        "kind": "count",
        "label": "queries",
        "explains": "queries that lie in it",
        "unit": "queries",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "clicks",
        "kind": "count",
        "label": "clicks",
        "explains": "clicks in the period, and the change against the days compared with",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "shown",
        "explains": "how often it was shown in search in the period",
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
        "label": "pos.",
        "explains": "average position, weighted by impressions; 1 is first",
        "unit": "",
        "low": true,
        "extra": false,
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
      "text"
    ],
    "columns": [
      {
        "name": "section",
        "kind": "text",
        "label": "section",
        "explains": "the directory",
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
        "label": "shown",
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
        "label": "pos.",
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
        "label": "lost",
        "explains": "clicks missing where they stand of all its pages",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "reachable",
        "kind": "amount",
        "label": "reachable",
        "explains": "clicks that better places would bring of all its pages",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "at_stake",
        "kind": "amount",
        "label": "at stake",
        "explains": "clicks lost and reachable together of all its pages",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "gain",
        "kind": "amount",
        "label": "to gain",
        "explains": "clicks lost and reachable by a cautious count of all its pages",
        "unit": "clicks in the period",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost",
        "explains": "clicks a month: what is missing where it stands",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "reachable_month",
        "kind": "amount",
        "label": "reachable",
        "explains": "clicks a month: what a better place would bring, if it got there",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      }
    ]
  },
  "striking-distance": {
    "title": "Striking distance",
    "question": "Which rows are within reach of a better position?",
    "method": "headroom-and-at-stake",
    "claims": [
      "row would gain from a better position",
      "rows would gain from a better position"
    ],
    "order": "reachable_month",
    "looks_at": [
      "branded",
      "by",
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
      "text"
    ],
    "columns": [
      {
        "name": "query",
        "kind": "query",
        "label": "query, page",
        "explains": "the query and the page shown for it",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "reachable_month",
        "kind": "amount",
        "label": "reachable",
        "explains": "clicks a month: what a better place would bring, if it got there",
        "unit": "clicks a month",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "lost_month",
        "kind": "amount",
        "label": "lost",
        "explains": "clicks a month: what is missing where it stands",
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
        "label": "shown",
        "explains": "how often it was shown in search in the period",
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
        "label": "usual",
        "explains": "the CTR that this site usually gets at the row's positions",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "position",
        "kind": "position",
        "label": "pos.",
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
        "explains": "how sure it is: firm (1 % false alarms), likely (10 %) or thin",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "expected_clicks",
        "kind": "amount",
        "label": "usual clicks",
        "explains": "the clicks that this site usually gets at the row's positions",
        "unit": "clicks in the period",
        "low": false,
        "extra": true,
        "sorts": true
      },
      {
        "name": "clicks_before",
        "kind": "count",
        "label": "clicks then",
        "explains": "clicks in the days compared with",
        "unit": "",
        "low": false,
        "extra": true,
        "sorts": true
      }
    ]
  },
  "topic-folds": {
    "title": "Pages shown for the same",
    "question": "Which pages are shown for the same queries, and do they say the same?",
    "method": "topic-folds",
    "claims": [
      "pair of pages is shown for the same",
      "pairs of pages are shown for the same"
    ],
    "order": "shown_for",
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
        "explains": "the page that is shown for the same queries",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "kind",
        "kind": "word",
        "label": "kind",
        "explains": "one subject twice, or two topics folded into one",
        "unit": "",
        "low": true,
        "extra": false,
        "sorts": true
      },
      {
        "name": "shown_for",
        "kind": "share",
        "label": "shown for",
        "explains": "how far they are shown for the same queries",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "say",
        "kind": "share",
        "label": "say",
        "explains": "how far they say the same",
        "unit": "",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "queries",
        "kind": "count",
        "label": "queries",
        "explains": "queries that both are shown for",
        "unit": "queries",
        "low": false,
        "extra": false,
        "sorts": true
      },
      {
        "name": "impressions",
        "kind": "count",
        "label": "shown",
        "explains": "how often it was shown in search in the period",
        "unit": "times in the period",
        "low": false,
        "extra": false,
        "sorts": true
      }
    ]
  }
} as const;
