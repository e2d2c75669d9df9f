// The versions of a draft and their differences; each can be restored.

import { useState } from "react";
import { toast } from "sonner";
import { ask } from "../api/ask";
import type { Schemas } from "../api/client";
import { moment } from "../shared/format";
import { Part } from "../shared/Part";
import { Button, Choice } from "../shared/parts";
import type { Draft } from "./DraftSession";

type Props = { slug: string; draft: Draft; may: boolean; putBack: (version: number) => Promise<void> };
const LOOKS = { kept: "span", added: "ins", removed: "del" } as const;
const COLOURS = { kept: "", added: "text-spruce underline", removed: "text-rust" };
type Parts = Schemas["DraftCompared"]["text"];

export function VersionsPanel({ slug, draft, may, putBack }: Props) {
  const path = { slug, draft_id: draft.id };
  const stored = ask.useQuery(
    "get",
    "/api/sites/{slug}/drafts/{draft_id}/versions",
    { params: { path } },
    { staleTime: 5_000 },
  );
  const versions = stored.data ?? [];
  const [chosen, setChosen] = useState<{ one?: number; other?: number }>({});
  const other = chosen.other ?? versions[0]?.number ?? draft.version;
  const one = chosen.one ?? (draft.crawled ? 0 : (versions[1]?.number ?? other));
  const compared = ask.useQuery(
    "get",
    "/api/sites/{slug}/drafts/{draft_id}/versions/{one}/{other}",
    { params: { path: { ...path, one, other } } },
    { enabled: versions.length > 0 },
  );
  const options = (
    <>
      {draft.crawled && <option value={0}>the page as crawled</option>}
      {versions.map((version) => (
        <option key={version.number} value={version.number}>
          {moment(version.made_at)}
          {version.by ? ` by ${version.by}` : ""}
        </option>
      ))}
    </>
  );
  return (
    <div data-testid="draft-versions">
      <div className="flex flex-wrap gap-3">
        <Choice
          label="From"
          value={one}
          onChange={(event) => setChosen({ ...chosen, one: Number(event.target.value) })}
        >
          {options}
        </Choice>
        <Choice
          label="to"
          value={other}
          onChange={(event) => setChosen({ ...chosen, other: Number(event.target.value) })}
        >
          {options}
        </Choice>
      </div>
      {may && (
        <p className="mt-2">
          <Button
            plain
            onClick={() => putBack(one).then(() => toast("Restored. The text from before is saved as a version."))}
          >
            Restore the “from” version
          </Button>
        </p>
      )}
      {compared.data && (
        <>
          <Changes title="Title" parts={compared.data.title} />
          <Changes title="Description" parts={compared.data.description} />
          <Changes title="Text" parts={compared.data.text} />
        </>
      )}
    </div>
  );
}

export function Changes({ title, parts }: { title: string; parts: Parts }) {
  const changed = parts.filter((block) => block.some((one) => one.what !== "kept"));
  return (
    <Part title={title}>
      {changed.length === 0 && <p className="text-faint">Nothing differs.</p>}
      {changed.map((block, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: two blocks may be alike
        <p key={at} className="mb-2">
          {block.map((one, place) => {
            const Stretch = LOOKS[one.what];
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: two stretches may be alike
              <Stretch key={place} className={COLOURS[one.what]}>
                {one.text}
              </Stretch>
            );
          })}
        </p>
      ))}
    </Part>
  );
}
