// Crawl data of a page: title and description, headings, links in and out.
import type { ReactNode } from "react";
import type { Schemas } from "../api/client";
import { count, NONE, path } from "../shared/format";

type File = Schemas["PageFile"];

function Facts({ facts }: { facts: [string, ReactNode][] }) {
  return (
    <dl className="grid grid-cols-[7rem_1fr] gap-y-0.5">
      {facts.map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="text-faint">{name}</dt>
          <dd className="break-words">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

export function CrawlFacts({ crawl }: { crawl: File["crawl"] }) {
  if (!crawl) return <p className="text-faint text-xs">It has not been crawled.</p>;
  const below = crawl.headings?.filter((one) => !one.startsWith("h1 ")) ?? [];
  const facts: [string, ReactNode][] = [
    ["title", crawl.title ?? "none"],
    ["main heading", crawl.heading ?? "none"],
    ["description", crawl.description ?? "none"],
    ["words", count(crawl.words)],
    ["status", String(crawl.status ?? NONE)],
  ];
  if (below.length > 0) facts.splice(2, 0, ["other headings", <Headings key="headings" headings={below} />]);
  if (crawl.robots) facts.push(["robots", crawl.robots]);
  return <Facts facts={facts} />;
}

const FEW = 4;

function Headings({ headings }: { headings: string[] }) {
  const list = (
    <ul>
      {headings.map((one, number) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: headings never change places, and may say the same
        <li key={number} style={{ paddingLeft: `${(Number(one[1]) - 2) * 0.75}rem` }}>
          {one.slice(3)}
        </li>
      ))}
    </ul>
  );
  if (headings.length <= FEW) return list;
  return (
    <details>
      <summary>{count(headings.length)}</summary>
      {list}
    </details>
  );
}

const pages = (number: number) => (number === 1 ? "one page" : `${count(number)} pages`);

export function Links({ links }: { links: NonNullable<File["links"]> }) {
  const anchors = links.anchors.map((one) => `“${one.anchor}” (${count(one.pages)})`).join(", ");
  const facts: [string, ReactNode][] = [
    ["links in", `from ${pages(links.pages_in)} of the site, from the main text of ${count(links.pages_in_body)}`],
    ["with the words", anchors || NONE],
    ["links out", `to ${pages(links.pages_out)} of the site`],
    ["other sites", links.sites === null ? "not loaded" : count(links.sites)],
  ];
  if (links.from_body.length > 0) facts.splice(2, 0, ["in the text of", links.from_body.map(path).join(", ")]);
  return <Facts facts={facts} />;
}
