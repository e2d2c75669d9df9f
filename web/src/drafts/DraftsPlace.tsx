// Drafts: what is being written, for which page and query, and its progress.
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { toast } from "sonner";
import { api, type Schemas } from "../api/client";
import { Figure, Named } from "../listing/cells";
import { FindingPlace, type PlaceProps } from "../listing/FindingPlace";
import { PlaceLine } from "../listing/PlaceLine";
import { TextSearch } from "../listing/TopLine";
import { day, moment, path } from "../shared/format";
import { Button, Failed, Notice } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { draftQuery } from "./useDraft";

export function DraftsPlace(props: PlaceProps) {
  const { site, search, change } = props;
  const navigate = useNavigate();
  const { text } = search;
  const open = (row: string) =>
    navigate({ to: "/$site/draft", params: { site: site.slug }, search: { draft: Number(row) } });
  return (
    <FindingPlace
      {...props}
      bare
      finding="drafts"
      options={{ text }}
      top={
        <PlaceLine site={site} to="/$site/drafts">
          <TextSearch text={text ?? ""} change={change} />
        </PlaceLine>
      }
      look={() => ({
        least: 34,
        rowHeight: 42,
        near: () => {},
        open,
        cells: {
          name: (row) => (
            <Named name={row.name} title={row.query} mark={null} below={row.page ? path(row.page) : "new page"} />
          ),
          words: (row) => <Figure value={row.words} />,
          changed_at: (row) => <span className="whitespace-nowrap">{moment(row.changed_at)}</span>,
        },
        widths: { changed_at: "9.4rem", due: "6.4rem", state: "4rem", words: "4rem" },
        empty: (
          <Notice
            title={text ? "No matches" : "No drafts yet"}
            action={
              text ? (
                <Button onClick={() => change({ text: undefined })}>Show all</Button>
              ) : (
                <Button
                  onClick={() =>
                    navigate({ to: "/$site/topics", params: { site: site.slug }, search: { finding: "content-gaps" } })
                  }
                >
                  See content gaps
                </Button>
              )
            }
          >
            Press d on a content gap (Topics) or in a page file (Pages) to start one.
          </Notice>
        ),
        waiting: "One moment.",
      })}
      evidence={(row) => row !== undefined && <DraftFile key={row} site={site} id={Number(row)} />}
    />
  );
}

function DraftFile({ site, id }: { site: Schemas["SiteShown"]; id: number }) {
  const found = useQuery(draftQuery(site.slug, id));
  const act = useAct();
  const params = { path: { slug: site.slug, draft_id: id } };
  if (found.error) return <Failed error={found.error} retry={() => found.refetch()} />;
  const draft = found.data;
  if (!draft) return <Notice title="Opening the draft">One moment.</Notice>;
  const drop = () =>
    act(
      () => api.DELETE("/api/sites/{slug}/drafts/{draft_id}", { params }),
      () =>
        toast("Removed.", {
          action: {
            label: "Restore",
            onClick: () => act(() => api.POST("/api/sites/{slug}/drafts/{draft_id}/restore", { params })),
          },
        }),
    );
  return (
    <article aria-label="Evidence" className="px-5 py-3" data-testid="draft-file">
      <h2 className="text-xl leading-6">{draft.name}</h2>
      <p className="text-faint">
        {draft.page ? path(draft.page) : "A new page"} for “{draft.query}”
      </p>
      <p className="mt-2 flex flex-wrap gap-x-4 gap-y-1 border-rule border-y py-1.5">
        <Link
          to="/$site/draft"
          params={{ site: site.slug }}
          search={{ draft: draft.id }}
          className="bg-ink px-3 py-1 font-medium text-paper hover:bg-spruce"
        >
          Open it
        </Link>
        {site.may_change && (
          <Button plain onClick={drop}>
            Remove it
          </Button>
        )}
      </p>
      <p className="mt-2">
        {draft.state === "done"
          ? `Published${draft.done_on ? ` on ${day(draft.done_on)}` : ""}. `
          : draft.writer
            ? `${draft.writer} is writing. `
            : "No one is editing. "}
        Last saved {moment(draft.changed_at)}.{" "}
        {draft.move_id && (
          <Link to="/$site/moves" params={{ site: site.slug }} search={{ row: String(draft.move_id) }} className="link">
            Open its move
          </Link>
        )}
      </p>
      {draft.title && <p className="mt-3 font-medium">{draft.title}</p>}
      {draft.description && <p>{draft.description}</p>}
      {/* What the server keeps is cut down to a few elements; nothing in it runs. */}
      {draft.text ? (
        // biome-ignore lint/security/noDangerouslySetInnerHtml: cleaned by the server (core/drafts/text.py)
        <div className="draft-text draft-preview" dangerouslySetInnerHTML={{ __html: draft.text }} />
      ) : (
        <p className="mt-2 text-faint">No text yet.</p>
      )}
    </article>
  );
}
