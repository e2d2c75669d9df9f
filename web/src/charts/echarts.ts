// The used parts of the chart library, loaded with the first chart.
import { CustomChart, LineChart, ScatterChart } from "echarts/charts";
import { AriaComponent, GridComponent, MarkLineComponent, TooltipComponent } from "echarts/components";
import { type EChartsType, init, use } from "echarts/core";
import { CanvasRenderer } from "echarts/renderers";
import { useEffect, useRef, useState } from "react";

use([
  CustomChart,
  LineChart,
  ScatterChart,
  AriaComponent,
  GridComponent,
  MarkLineComponent,
  TooltipComponent,
  CanvasRenderer,
]);

export type Palette = Record<"ink" | "faint" | "rule" | "spruce" | "rust" | "ochre" | "sheet" | "picked", string>;

function palette(): Palette {
  const style = getComputedStyle(document.documentElement);
  const read = (name: string) => style.getPropertyValue(`--${name}`).trim();
  return {
    ink: read("ink"),
    faint: read("faint"),
    rule: read("rule"),
    spruce: read("spruce"),
    rust: read("rust"),
    ochre: read("ochre"),
    sheet: read("sheet"),
    picked: read("picked"),
  };
}

/** The theme's colours, read again when it changes. */
export function usePalette(): Palette {
  const [colours, setColours] = useState(palette);
  useEffect(() => {
    const follow = () => setColours(palette());
    window.addEventListener("themechange", follow);
    return () => window.removeEventListener("themechange", follow);
  }, []);
  return colours;
}

type Option = Record<string, unknown>;

/** The option and overlay of each chart, by its element. */
export const optionsShown = new WeakMap<HTMLElement, Option[]>();

/** A chart that fills its box. `overlay` is merged into `option` by series ids, so selecting a row does not redraw
 * thousands of dots. */
export function useChart(option: Option | null, overlay: Option | null = null, onPick?: (data: unknown) => void) {
  const box = useRef<HTMLDivElement>(null);
  const chart = useRef<EChartsType | null>(null);
  const pick = useRef(onPick);
  pick.current = onPick;

  useEffect(() => {
    if (!box.current) return;
    const made = init(box.current);
    chart.current = made;
    made.on("click", (event) => pick.current?.(event.data));
    const watch = new ResizeObserver(() => made.resize());
    watch.observe(box.current);
    return () => {
      watch.disconnect();
      made.dispose();
      chart.current = null;
    };
  }, []);
  useEffect(() => {
    if (option) chart.current?.setOption(option, { notMerge: true });
  }, [option]);
  useEffect(() => {
    // Without its option a chart has no axes for an overlay; a new option removes the overlay.
    if (option && overlay) chart.current?.setOption(overlay);
    if (box.current && option) optionsShown.set(box.current, overlay ? [option, overlay] : [option]);
  }, [overlay, option]);
  return box;
}
