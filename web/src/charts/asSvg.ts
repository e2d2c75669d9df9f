// A chart as SVG, drawn off screen from its options.
import { init, use } from "echarts/core";
import { SVGRenderer } from "echarts/renderers";
import { optionsShown } from "./echarts";

use([SVGRenderer]);

/** The SVG of the chart in a box. */
export function chartAsSvg(box: HTMLElement): string {
  const drawn = init(null, null, { renderer: "svg", ssr: true, width: box.clientWidth, height: box.clientHeight });
  for (const option of optionsShown.get(box) ?? []) drawn.setOption(option);
  const svg = drawn.renderToSVGString();
  drawn.dispose();
  return svg;
}
