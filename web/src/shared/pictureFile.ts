// A picture as a file. Drawings become SVG with their own lines and text, so any drawing program can open it; text and bars in
// HTML become an SVG that browsers show. PNG is the picture as on screen.
const DRAWN = ["fill", "stroke", "background", "font-family"] as const;

export async function pictureFile(box: HTMLElement, kind: "svg" | "png"): Promise<string> {
  const paper = getComputedStyle(document.body).backgroundColor;
  if (kind === "svg") {
    const chart = box.querySelector<HTMLElement>("[data-chart]");
    const drawn = box.querySelector<SVGSVGElement>("svg:not([class*=lucide])");
    if (chart) return asAddress(onPaper((await import("../charts/asSvg")).chartAsSvg(chart), paper));
    if (drawn && drawn.clientHeight > 40) return asAddress(onPaper(standingAlone(drawn), paper));
  }
  const { toPng, toSvg } = await import("html-to-image");
  return (kind === "svg" ? toSvg : toPng)(box, { backgroundColor: paper, pixelRatio: 2, skipFonts: kind === "svg" });
}

const asAddress = (svg: string) => `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;

/** The background of a drawing. */
const onPaper = (svg: string, paper: string) =>
  svg.replace(/(<svg[^>]*>)/, `$1<rect width="100%" height="100%" fill="${paper}"/>`);

/** A drawing with its colours and typefaces from the screen. */
function standingAlone(drawn: SVGSVGElement): string {
  const copy = drawn.cloneNode(true) as SVGSVGElement;
  const own = [drawn, ...drawn.querySelectorAll<SVGElement>("*")];
  const copies = [copy, ...copy.querySelectorAll<SVGElement>("*")];
  own.forEach((element, number) => {
    const style = getComputedStyle(element);
    for (const name of DRAWN) {
      const answer = element.getAttribute(name);
      if (answer?.includes("var(") || (name === "font-family" && element.tagName === "text"))
        copies[number]?.setAttribute(name, style.getPropertyValue(name));
    }
  });
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  return new XMLSerializer().serializeToString(copy);
}
