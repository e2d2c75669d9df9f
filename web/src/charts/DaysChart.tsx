// The row's days as small multiples, one measure each on its own scale, on one time axis.
import { useMemo } from "react";
import type { Schemas } from "../api/client";
import { count, day, place } from "../shared/format";
import { useChart, usePalette } from "./echarts";

type Proof = Schemas["RowProof"];
type Props = { proof: Proof; first: string; last: string };

const PANEL = 62;
const GAP = 32;
const TOP = 26;

export default function DaysChart({ proof, first, last }: Props) {
  const colours = usePalette();
  const option = useMemo(() => {
    const panels = [
      {
        name: "clicks; dashed: expected clicks at the day's position",
        now: proof.days.map((one) => [one.day, one.clicks]),
        before: proof.days_before.map((one) => [one.day, one.clicks]),
        usual: proof.days.map((one) => [one.day, one.expected_clicks]),
      },
      {
        name: "position",
        now: proof.days.map((one) => [one.day, one.position]),
        before: proof.days_before.map((one) => [one.day, one.position]),
        inverse: true,
      },
      {
        name: "impressions",
        now: proof.days.map((one) => [one.day, one.impressions]),
        before: proof.days_before.map((one) => [one.day, one.impressions]),
      },
    ];
    const line = (panel: number, data: unknown, colour: string, width: number, more: object = {}) => ({
      type: "line",
      xAxisIndex: panel,
      yAxisIndex: panel,
      data,
      symbol: "none",
      lineStyle: { color: colour, width, ...more },
      silent: true,
    });
    return {
      animation: false,
      aria: {
        enabled: true,
        label: { description: "Clicks, position and impressions by day; the table below says the same." },
      },
      axisPointer: { link: [{ xAxisIndex: "all" }] },
      tooltip: {
        trigger: "axis",
        backgroundColor: colours.sheet,
        borderColor: colours.rule,
        textStyle: { color: colours.ink, fontSize: 12 },
        formatter: (points: { axisValue: number }[]) => {
          const hovered = new Date(points[0]?.axisValue ?? 0).toISOString().slice(0, 10);
          const one = proof.days.find((each) => each.day === hovered);
          if (!one) return `${day(hovered)}: not shown`;
          return `${day(hovered)}: ${count(one.clicks)} clicks (expected ${place(one.expected_clicks)}), ${count(one.impressions)} impressions at ${place(one.position)}`;
        },
      },
      grid: panels.map((_, index) => ({ left: 40, right: 10, top: TOP + index * (PANEL + GAP), height: PANEL })),
      xAxis: panels.map((_, index) => ({
        type: "time",
        gridIndex: index,
        min: first,
        max: last,
        axisLine: { lineStyle: { color: colours.rule } },
        axisTick: { show: false },
        axisLabel: {
          show: index === panels.length - 1,
          color: colours.faint,
          fontSize: 11,
          hideOverlap: true,
          formatter: (time: number) => day(new Date(time).toISOString().slice(0, 10)).replace(/ \d{4}$/, ""),
        },
        splitLine: { show: false },
        axisPointer: { lineStyle: { color: colours.faint }, label: { show: false } },
      })),
      yAxis: panels.map((panel, index) => ({
        type: "value",
        gridIndex: index,
        inverse: panel.inverse ?? false,
        min: panel.inverse ? (range: { min: number }) => Math.max(1, Math.floor(range.min) - 1) : 0,
        name: panel.name,
        nameLocation: panel.inverse ? "start" : "end",
        nameGap: 12,
        nameTextStyle: { color: colours.faint, fontSize: 11, align: "left", padding: [0, 0, 0, -34] },
        splitNumber: 2,
        axisLabel: { color: colours.faint, fontSize: 11 },
        axisLine: { show: false },
        axisTick: { show: false },
        splitLine: { lineStyle: { color: colours.rule } },
      })),
      series: panels.flatMap((panel, index) => [
        line(index, panel.before, colours.faint, 1, { opacity: 0.55 }),
        ...(panel.usual ? [line(index, panel.usual, colours.rust, 1.5, { type: "dashed" })] : []),
        line(index, panel.now, colours.ink, 1.5),
      ]),
    };
  }, [proof, first, last, colours]);
  const box = useChart(option);
  return <div ref={box} data-chart style={{ height: TOP + 3 * (PANEL + GAP) }} className="w-full" />;
}
