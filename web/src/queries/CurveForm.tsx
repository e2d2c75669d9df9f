// Your own click curve: for a site with too little data, or an analyst who knows better.
import { type FormEvent, useState } from "react";
import type { Schemas } from "../api/client";
import { useKeep } from "../listing/useKeep";
import { Opening } from "../shared/Dialog";
import { place } from "../shared/format";
import { Button, MainButton } from "../shared/parts";
import { readCurve } from "../state/curve";

const SHOWN = [1, 2, 3, 4, 5, 7, 10, 11, 15, 28, 50];

export function CurveForm({ site, curve }: { site: Schemas["SiteShown"]; curve: Schemas["BandPoint"][] }) {
  const keep = useKeep(site);
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const points = readCurve(text);
  const before = { curve: site.own_curve ?? ("fitted" as const) };

  function opened(now: boolean) {
    const shown = curve.filter((point) => SHOWN.includes(point.position));
    setText(shown.map((point) => `${place(point.position)}  ${(point.ctr * 100).toPrecision(3)} %`).join("\n"));
    setOpen(now);
  }

  async function submit(event: FormEvent) {
    event.preventDefault();
    if (points && (await keep({ curve: points }, before))) setOpen(false);
  }

  return (
    <span className="ml-auto text-xs">
      <Opening
        name="Set the click curve"
        label={site.own_curve ? "your own curve" : "set the curve"}
        open={open}
        onOpen={opened}
      >
        <form onSubmit={submit} className="space-y-3">
          <label className="block">
            <span className="mb-0.5 block text-faint">Position and CTR, one pair a line</span>
            <textarea
              value={text}
              rows={12}
              spellCheck={false}
              onChange={(event) => setText(event.target.value)}
              className="w-full border border-strong-rule bg-paper px-2 py-1 font-mono text-xs"
            />
          </label>
          <p role="status" className={points ? "text-faint" : "text-rust"}>
            {points
              ? "Between the points the curve is straight in logarithms; beyond them it stays level."
              : "Each line needs a position and a CTR, such as “3  8.4 %”; at least two lines."}
          </p>
          <div className="flex gap-2">
            <MainButton type="submit" disabled={!points}>
              Save for this site
            </MainButton>
            {site.own_curve && (
              <Button
                onClick={async () => {
                  if (await keep({ curve: "fitted" }, before)) setOpen(false);
                }}
              >
                Back to the fitted curve
              </Button>
            )}
          </div>
        </form>
      </Opening>
    </span>
  );
}
