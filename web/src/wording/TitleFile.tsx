// A page's title and description as a results page shows them, rewritten with live length; and its main query.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { titleQuery } from "../api/ask";
import { api, type Schemas } from "../api/client";
import { Deciding } from "../moves/Deciding";
import { MakeMove } from "../moves/MakeMove";
import { FigureTable } from "../shared/FigureTable";
import { count, path, place } from "../shared/format";
import { PageLink } from "../shared/PageLink";
import { Part } from "../shared/Part";
import { Button, Failed, Notice } from "../shared/parts";
import { useAct } from "../shared/useAct";
import type { Asked } from "../state/view";
import "@fontsource/arimo/latin-400.css";
import "@fontsource/arimo/latin-ext-400.css";
import { problemWords } from "./problems";

type Props = { site: Schemas["SiteShown"]; asked: Asked; row: string | undefined };
const LIMITS = { title: { size: 20, cut: 600, letters: 60 }, description: { size: 14, cut: 960, letters: 160 } };

export function TitleFile({ site, asked, row }: Props) {
  const file = useQuery({ ...titleQuery(site.slug, asked, row ?? "0"), enabled: row !== undefined });
  if (!row) return null;
  if (file.error) return <Failed error={file.error} retry={() => file.refetch()} />;
  const told = file.data;
  if (!told) return <Notice title="Opening the page">Its title, description and queries are brought together.</Notice>;
  return <Opened key={told.page_id} site={site} asked={asked} told={told} stale={file.isPlaceholderData} />;
}

type OpenedProps = { site: Schemas["SiteShown"]; asked: Asked; told: Schemas["TitleFile"]; stale: boolean };

function Opened({ site, asked, told, stale }: OpenedProps) {
  const [wanted, setWanted] = useState({ title: told.title ?? "", description: told.description ?? "" });
  const [moving, setMoving] = useState(false);
  // Widths are told by the face of results pages, once it is there.
  const [, setFace] = useState(false);
  useEffect(() => {
    document.fonts.load("20px Arimo").then(() => setFace(true));
  }, []);
  const changed = wanted.title !== (told.title ?? "") || wanted.description !== (told.description ?? "");
  return (
    <article aria-label="Evidence" className={`px-5 py-3 ${stale ? "opacity-60" : ""}`} data-testid="title-file">
      <h2 className="text-xl leading-6">{told.title ?? "No title"}</h2>
      <PageLink address={told.page} />
      <Deciding site={site} subject={{ page: told.page_id }} finding="titles" name={path(told.page)} asked={asked} />
      {told.finding && (
        <p className="mt-2 font-serif text-[15px] leading-snug">
          Problems: {told.finding.problems.map(problemWords).join(", ")}. Its snippets lose about{" "}
          {count(told.finding.lost_month)} clicks a month. {told.finding.what_to_do}
        </p>
      )}
      <Part title="As a results page shows it" method="titles-and-descriptions">
        <div className="border border-rule bg-sheet px-3 py-2">
          <p className="text-faint text-xs">{told.page.replace(/^https?:\/\//, "")}</p>
          <Cut text={wanted.title || "No title"} of="title" className="text-[20px] leading-6" />
          <Cut text={wanted.description || "No description"} of="description" className="text-[14px] leading-5" />
        </div>
        <Rewritten name="title" value={wanted.title} set={(title) => setWanted({ ...wanted, title })} />
        <Rewritten
          name="description"
          value={wanted.description}
          set={(description) => setWanted({ ...wanted, description })}
        />
        {changed && site.may_change && (
          <p className="mt-2 flex gap-3">
            <Button onClick={() => setMoving(true)}>Make it a move</Button>
            <Button plain onClick={() => setWanted({ title: told.title ?? "", description: told.description ?? "" })}>
              as it was
            </Button>
          </p>
        )}
        {moving && (
          <MakeMove
            site={site}
            subjects={[{ page: told.page_id }]}
            finding="titles"
            name={path(told.page)}
            asked={asked}
            wanted={wanted}
            close={() => setMoving(false)}
          />
        )}
      </Part>
      {told.shown.some((one) => one.title) && (
        <Part title="Shown on captured results pages">
          <FigureTable
            rows={told.shown}
            keyOf={(one) => one.query}
            columns={[
              { head: "query", cell: (one) => one.query },
              { head: "title there", cell: (one) => one.title ?? "–", left: true },
            ]}
          />
        </Part>
      )}
      <MainQuery site={site} told={told} />
    </article>
  );
}

/** A text as far as it is shown; what is cut off stands struck through. */
function Cut({ text, of, className }: { text: string; of: keyof typeof LIMITS; className: string }) {
  const { size, cut } = LIMITS[of];
  return (
    <p
      className={`overflow-hidden break-words font-[Arimo] ${className}`}
      style={{ maxWidth: of === "title" ? cut : undefined }}
    >
      <span className={of === "title" ? "block truncate" : "line-clamp-2"}>{text}</span>
      {widthOf(text, size) > cut && <span className="text-rust text-xs">cut off here</span>}
    </p>
  );
}

let canvas: CanvasRenderingContext2D | null | undefined;
/** About how wide a text is, in pixels, in the usual face of results pages. */
function widthOf(text: string, size: number): number {
  canvas ??= document.createElement("canvas").getContext("2d");
  if (!canvas) return 0;
  canvas.font = `${size}px Arimo, Arial, sans-serif`;
  return canvas.measureText(text).width;
}

function Rewritten({ name, value, set }: { name: keyof typeof LIMITS; value: string; set: (text: string) => void }) {
  const { size, cut, letters } = LIMITS[name];
  const pixels = widthOf(value, size);
  const over = pixels > cut;
  return (
    <label className="mt-2 block">
      <span className="flex justify-between gap-x-3 text-faint text-xs">
        <span>{name}</span>
        <span className={over ? "text-rust" : ""}>
          {value.length} letters of about {letters}, {Math.round(pixels)} of {cut} pixels{over && ": cut off"}
        </span>
      </span>
      <textarea
        value={value}
        rows={name === "title" ? 2 : 3}
        maxLength={5000}
        onChange={(event) => set(event.target.value)}
        className="w-full border border-strong-rule bg-sheet px-2 py-1"
      />
    </label>
  );
}

/** Which query the page is for; one may be chosen in place of what the figures propose. */
function MainQuery({ site, told }: { site: Schemas["SiteShown"]; told: Schemas["TitleFile"] }) {
  const act = useAct();
  const queryClient = useQueryClient();
  const choose = (query_id: number | null) =>
    act(
      () =>
        api.PUT("/api/sites/{slug}/main-queries/{page_id}", {
          params: { path: { slug: site.slug, page_id: told.page_id } },
          body: { query_id },
        }),
      () => queryClient.invalidateQueries(),
    );
  if (told.candidates.length === 0) return null;
  return (
    <Part
      title="Its main query"
      aside={
        told.chosen &&
        site.may_change && (
          <Button plain onClick={() => choose(null)}>
            as the figures propose
          </Button>
        )
      }
    >
      <FigureTable
        rows={told.candidates}
        keyOf={(one) => one.query_id}
        columns={[
          {
            head: told.chosen ? "chosen by hand" : "as the figures propose",
            cell: (one) => (
              <label className="inline-flex min-h-6 items-center gap-1.5">
                <input
                  type="radio"
                  name={`main-${told.page_id}`}
                  disabled={!site.may_change}
                  checked={one.query_id === told.main_query_id}
                  onChange={() => choose(one.query_id)}
                />
                {one.query}
              </label>
            ),
          },
          { head: "clicks", cell: (one) => count(one.clicks) },
          { head: "shown", cell: (one) => count(one.impressions) },
          { head: "pos.", cell: (one) => place(one.position) },
          { head: "fit", cell: (one) => one.fit ?? "–" },
        ]}
      />
    </Part>
  );
}
