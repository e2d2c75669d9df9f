// The exchange: one square a page, its share of authority across, its share of opportunity up; on the diagonal they are equal.
// A tail shows the effect of suggested links.
import { useMemo } from "react";
import type { Answer } from "../api/ask";
import { path, share } from "../shared/format";
import { Picture } from "../shared/Picture";
import { useWidth } from "../shared/useWidth";
import { WalkPoints } from "../shared/WalkPoints";

type Square = Answer<"needs-links">["squares"][number];
const HEIGHT = 250;
const LEFT = 54;
const FOOT = 30;
const MOVED = 1.05; // a smaller gain has no tail
const LOOKS: Record<string, { fill: string; stroke: string }> = {
  "needs links": { fill: "var(--color-rust)", stroke: "var(--color-rust)" },
  fix: { fill: "url(#exchange-half)", stroke: "var(--color-ochre)" },
  "can link out": { fill: "var(--color-paper)", stroke: "var(--color-spruce)" },
  fine: { fill: "var(--color-paper)", stroke: "var(--color-strong-rule)" },
};

const wordsOf = (one: Square) =>
  `${path(one.page)}: ${share(one.authority_share)} of the authority, ${share(one.opportunity_share)} of the opportunity`;

type Props = {
  squares: Square[];
  chosen?: number | undefined;
  after?: number | undefined; // the authority of the chosen page with its suggested links
  pick: (page: number) => void;
};

export function Exchange({ squares, chosen, after, pick }: Props) {
  const [box, width] = useWidth<HTMLDivElement>();
  const shares = squares
    .flatMap((one) => [one.authority_share, one.authority_after, one.opportunity_share])
    .filter((one) => one > 0);
  const least = Math.max(Math.min(...shares, 0.001), 1e-5);
  const most = Math.max(...shares, after ?? 0, 0.01);
  // The first tenth of each axis is for pages with nothing.
  const along = (value: number) =>
    value <= least ? 0 : 0.06 + (0.94 * Math.log(value / least)) / Math.log(most / least);
  const across = (value: number) => LEFT + along(value) * (width - LEFT - 12);
  const up = (value: number) => HEIGHT - FOOT - along(value) * (HEIGHT - FOOT - 10);
  const ticks = [1e-5, 1e-4, 0.001, 0.01, 0.1, 1].filter((tick) => tick > least && tick <= most);
  const walked = useMemo(() => [...squares].sort((a, b) => a.authority_share - b.authority_share), [squares]);
  const ours = squares.find((one) => one.page_id === chosen);
  const ordered = [...squares].sort((one, other) => Number(one.action !== "fine") - Number(other.action !== "fine"));
  return (
    <figure>
      <Picture name="Authority and opportunity">
        <WalkPoints
          label="Pages by link authority and opportunity"
          points={walked}
          at={walked.findIndex((one) => one.page_id === chosen)}
          words={wordsOf}
          pick={(one) => pick(one.page_id)}
        >
          <div ref={box}>
            {width > 0 && (
              <svg
                width={width}
                height={HEIGHT}
                role="img"
                aria-label="Pages by their share of link authority and their share of the opportunity; the list has the same figures"
              >
                <defs>
                  <pattern id="exchange-half" width="4" height="4" patternUnits="userSpaceOnUse">
                    <path d="M0 0h2v4H0z" fill="var(--color-ochre)" />
                  </pattern>
                </defs>
                {ticks.map((tick) => (
                  <g key={tick} stroke="var(--color-rule)" className="fill-faint text-axis">
                    <line x1={across(tick)} x2={across(tick)} y1={10} y2={HEIGHT - FOOT} />
                    <line x1={LEFT} x2={width - 12} y1={up(tick)} y2={up(tick)} />
                    <text x={across(tick)} y={HEIGHT - FOOT + 13} textAnchor="middle" stroke="none">
                      {share(tick)}
                    </text>
                    <text x={LEFT - 5} y={up(tick) + 4} textAnchor="end" stroke="none">
                      {share(tick)}
                    </text>
                  </g>
                ))}
                <line
                  x1={across(least * 1.0001)}
                  y1={up(least * 1.0001)}
                  x2={across(most)}
                  y2={up(most)}
                  stroke="var(--color-strong-rule)"
                  strokeDasharray="4 3"
                />
                <text x={width - 12} y={HEIGHT - 3} textAnchor="end" className="fill-faint text-axis">
                  share of authority →
                </text>
                <text x={4} y={9} className="fill-faint text-axis">
                  ↑ share of the opportunity
                </text>
                <g stroke="var(--color-spruce)" strokeWidth={1} opacity={0.7}>
                  {squares
                    .filter((one) => one.authority_after > MOVED * one.authority_share)
                    .map((one) => (
                      <line
                        key={one.page_id}
                        x1={across(one.authority_share)}
                        x2={across(one.authority_after)}
                        y1={up(one.opportunity_share)}
                        y2={up(one.opportunity_share)}
                      />
                    ))}
                </g>
                {ordered.map((one) => (
                  // biome-ignore lint/a11y/noStaticElementInteractions: a short way to a row of the list
                  <rect
                    key={one.page_id}
                    x={across(one.authority_share) - 3}
                    y={up(one.opportunity_share) - 3}
                    width={6}
                    height={6}
                    {...LOOKS[one.action]}
                    className="cursor-pointer hover:stroke-ink"
                    onClick={() => pick(one.page_id)}
                  >
                    <title>{wordsOf(one)}</title>
                  </rect>
                ))}
                {ours && (
                  <g stroke="var(--color-ink)" fill="none" strokeWidth={1.5}>
                    {after !== undefined && after > ours.authority_share && (
                      <path
                        d={`M${across(ours.authority_share)} ${up(ours.opportunity_share)}H${across(after)}m-4 -3l4 3l-4 3`}
                        data-testid="tail"
                      />
                    )}
                    <rect
                      x={across(ours.authority_share) - 5.5}
                      y={up(ours.opportunity_share) - 5.5}
                      width={11}
                      height={11}
                    />
                  </g>
                )}
              </svg>
            )}
          </div>
        </WalkPoints>
      </Picture>
      <figcaption className="text-faint text-xs">
        Each square is a page. Pages above the dashed line have more opportunity than link authority. Filled: needs
        links; striped: has broken links; green outline: can link out. Tails: the effect of all suggested links
        {after !== undefined && "; the arrow: those to this page alone"}.
      </figcaption>
    </figure>
  );
}
