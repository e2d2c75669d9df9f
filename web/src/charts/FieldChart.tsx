// The chart of all rows: position across (logarithmic), CTR up, one dot a query, the site's curve with its band of usual
// scatter.
import { type PointerEvent, useMemo, useState } from "react";
import type { Schemas } from "../api/client";
import { count, place, share } from "../shared/format";
import { WalkPoints } from "../shared/WalkPoints";
import { isSure } from "../state/view";
import { useChart, usePalette } from "./echarts";

type Props = {
  field: Schemas["QueryField"] | undefined;
  proof: Schemas["RowProof"];
  loss: boolean;
  pick: (row: string) => void;
  brush: (above: number, below: number) => void; // positions selected by dragging
};
type Dot = Schemas["Dot"];
type Palette = ReturnType<typeof usePalette>;

const radius = (impressions: number) => Math.min(1.4 + 1.3 * Math.log10(Math.max(impressions, 10) / 10), 8);
// CTR on a square-root scale: half of all rows are below 2 %, and a linear scale would squeeze them together.
const up = (ctr: number) => Math.sqrt(ctr);
const GRID = { left: 40, right: 14, top: 22, bottom: 34 };
const LAST_POSITION = 100;
const DRAWN = 8; // pixels: a shorter drag is a click
const isFinding = (dot: Dot) => isSure(dot.evidence);
const wordsOf = (dot: Dot) =>
  `${dot.name}: ${share(dot.ctr)} at ${place(dot.position)}, ${count(dot.impressions)} impressions`;
const TICKS = [0, 0.01, 0.05, 0.1, 0.2, 0.4];

/** All rows and the site's curve with its band. */
function fieldOption(field: Schemas["QueryField"], found: string, colours: Palette) {
  const ceiling = Math.max(...field.curve.map((point) => point.high), ...field.dots.map((dot) => dot.ctr), 0.05);
  const tone = (dot: Dot) => (isFinding(dot) ? found : colours.faint);
  const asDatum = (dot: Dot) => ({
    value: [dot.position, up(dot.ctr)],
    dot,
    symbolSize: 2 * radius(dot.impressions),
    itemStyle: { color: tone(dot), opacity: isFinding(dot) ? 0.85 : 0.3 },
  });
  const band = (edge: "low" | "high") => field.curve.map((point) => [point.position, up(point[edge])]);
  return {
    animation: false,
    aria: { enabled: true, label: { description: "The site's click curve, with one dot for each query." } },
    grid: GRID,
    tooltip: {
      backgroundColor: colours.sheet,
      borderColor: colours.rule,
      textStyle: { color: colours.ink, fontSize: 12 },
      formatter: (hovered: { data: { dot?: Dot } }) => {
        const dot = hovered.data.dot;
        if (!dot) return "";
        const box = document.createElement("div");
        box.textContent = wordsOf(dot);
        return box;
      },
    },
    xAxis: {
      type: "log",
      min: 1,
      max: 100,
      name: "position",
      nameLocation: "middle",
      nameGap: 20,
      nameTextStyle: { color: colours.faint, fontSize: 11 },
      axisLine: { lineStyle: { color: colours.faint } },
      axisTick: { show: false },
      splitLine: { show: false },
      axisLabel: { show: false },
    },
    yAxis: {
      type: "value",
      min: 0,
      max: up(ceiling) * 1.05,
      name: "CTR (root scale)",
      nameLocation: "end",
      nameGap: 4,
      nameTextStyle: { color: colours.faint, fontSize: 11, align: "left", padding: [0, 0, 0, -34] },
      axisLine: { show: false },
      axisTick: { show: false },
      splitLine: { show: false },
      axisLabel: { show: false },
    },
    series: [
      bandSeries(band("low"), band("high"), colours.picked),
      gridSeries(colours, up(ceiling)),
      { type: "scatter", data: field.dots.map(asDatum), z: 3, cursor: "pointer" },
      ...(["low", "high"] as const).map((edge) => ({
        type: "line",
        silent: true,
        symbol: "none",
        data: band(edge),
        lineStyle: { color: colours.ink, width: 0.75, opacity: 0.6 },
        z: 4,
      })),
      {
        type: "line",
        silent: true,
        symbol: "none",
        data: field.curve.map((point) => [point.position, up(point.ctr)]),
        lineStyle: { color: colours.ink, width: 1.5 },
        z: 4,
      },
    ],
  };
}

/** One row and how far it is from what is usual at its positions. */
function rowOption(proof: Schemas["RowProof"], found: string, colours: Palette) {
  return {
    series: [
      {
        id: "row",
        type: "scatter",
        silent: true,
        symbol: "rect",
        z: 5,
        data: [
          {
            value: [proof.position, up(proof.ctr)],
            symbolSize: Math.max(2 * radius(proof.impressions), 12),
            itemStyle: { color: "transparent", borderColor: colours.ink, borderWidth: 2 },
          },
        ],
      },
      {
        id: "gap",
        type: "line",
        silent: true,
        symbol: "none",
        data: [
          [proof.position, up(proof.ctr)],
          [proof.position, up(proof.expected_ctr)],
        ],
        lineStyle: { color: found, width: 1.5, type: "dashed" },
        z: 6,
      },
    ],
  };
}

export default function FieldChart({ field, proof, loss, pick, brush }: Props) {
  const colours = usePalette();
  const found = loss ? colours.rust : colours.spruce;
  const option = useMemo(() => (field ? fieldOption(field, found, colours) : null), [field, found, colours]);
  const selected = useMemo(() => rowOption(proof, found, colours), [proof, found, colours]);
  // By keys from finding to finding, in the order of their positions: walking a thousand dots leads nowhere.
  const walked = useMemo(() => (field?.dots ?? []).filter(isFinding).sort((a, b) => a.position - b.position), [field]);
  const box = useChart(option, selected, (data) => {
    const dot = (data as { dot?: Dot } | undefined)?.dot;
    if (dot) pick(`${dot.page_id}-${dot.query_id}`);
  });
  return (
    <figure>
      <WalkPoints
        label="The field: queries and their CTR"
        points={walked}
        at={walked.findIndex((dot) => dot.page_id === proof.page_id && dot.query_id === proof.query_id)}
        words={wordsOf}
        pick={(dot) => pick(`${dot.page_id}-${dot.query_id}`)}
      >
        <Brush brush={brush}>
          <div ref={box} data-chart className="h-60 w-full" />
        </Brush>
      </WalkPoints>
      <figcaption className="text-faint text-xs">
        Line: the expected CTR of this site at each position. Shade: 8 of 10 rows lie here. Square: this row. Coloured
        dots are findings of the list. Drag across to filter by position. {field?.basis}{" "}
        {field &&
          field.tested > field.dots.length &&
          `The ${count(field.dots.length)} with most impressions of ${count(field.tested)} rows.`}
      </figcaption>
    </figure>
  );
}

/** Dragging across the chart selects positions; the filters show the same, and its word in the top line removes it. */
function Brush({ brush, children }: { brush: Props["brush"]; children: React.ReactNode }) {
  const [drawn, setDrawn] = useState<[number, number] | null>(null);
  const x = (event: PointerEvent<HTMLElement>) => event.clientX - event.currentTarget.getBoundingClientRect().left;
  const [from, to] = drawn ? [Math.min(...drawn), Math.max(...drawn)] : [0, 0];
  const isDrawn = to - from > DRAWN;

  function end(event: PointerEvent<HTMLElement>) {
    const width = event.currentTarget.clientWidth - GRID.left - GRID.right;
    const position = (at: number) => {
      const share = Math.min(Math.max((at - GRID.left) / width, 0), 1);
      return Math.round(LAST_POSITION ** share * 10) / 10;
    };
    if (isDrawn) brush(position(from), position(to));
    setDrawn(null);
  }
  return (
    <div
      className="relative touch-pan-y"
      data-testid="field"
      onPointerDown={(event) => event.button === 0 && setDrawn([x(event), x(event)])}
      onPointerMove={(event) => drawn && setDrawn([drawn[0], x(event)])}
      onPointerUp={end}
      onPointerLeave={() => setDrawn(null)}
    >
      {children}
      {isDrawn && (
        <div
          className="pointer-events-none absolute border-ink border-x bg-ink/10"
          style={{ left: from, width: to - from, top: GRID.top, bottom: GRID.bottom }}
        />
      )}
    </div>
  );
}

type Point = number[];

/** The band of usual scatter as one shape between its edges. */
function bandSeries(low: Point[], high: Point[], colour: string) {
  return {
    type: "custom",
    silent: true,
    z: 1,
    data: [[1, 0]],
    renderItem: (_: unknown, draw: { coord: (point: Point) => number[] }) => ({
      type: "polygon",
      shape: { points: [...low, ...[...high].reverse()].map((point) => draw.coord(point)) },
      style: { fill: colour },
    }),
  };
}

/** Ticks at common positions: 1, 3, 5, 10, 20, 50; CTR on the square-root scale. */
function gridSeries(colours: { rule: string; faint: string }, ceiling: number) {
  const text = (x: number, y: number, label: string, align: string) => ({
    type: "text",
    style: {
      x,
      y,
      text: label,
      fill: colours.faint,
      font: "11px 'Public Sans Variable', sans-serif",
      align,
      verticalAlign: "middle",
    },
  });
  const line = (from: number[], to: number[]) => ({
    type: "line",
    shape: { x1: from[0], y1: from[1], x2: to[0], y2: to[1] },
    style: { stroke: colours.rule, lineWidth: 1 },
  });
  return {
    type: "custom",
    silent: true,
    z: 2,
    data: [[1, 0]],
    renderItem: (_: unknown, draw: { coord: (point: Point) => number[] }) => {
      const children: object[] = [];
      for (const position of [1, 2, 3, 5, 10, 20, 50, 100]) {
        const [x = 0, y = 0] = draw.coord([position, 0]);
        children.push(text(x, y + 9, String(position), "center"));
        if (position === 10) children.push(line([x, y], draw.coord([position, ceiling])));
      }
      for (const ctr of TICKS.filter((tick) => up(tick) <= ceiling)) {
        const [x = 0, y = 0] = draw.coord([1, up(ctr)]);
        children.push(
          text(x - 6, y, share(ctr).replace(/[.,]0/, ""), "right"),
          line([x, y], draw.coord([100, up(ctr)])),
        );
      }
      return { type: "group", children };
    },
  };
}
