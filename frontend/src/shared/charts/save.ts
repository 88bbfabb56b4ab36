/** Properties that make up a drawing's look, written onto each element so that it stands without the page's styles. */
const LOOK = [
  "fill",
  "fill-opacity",
  "stroke",
  "stroke-width",
  "stroke-opacity",
  "stroke-dasharray",
  "stroke-linecap",
  "stroke-linejoin",
  "opacity",
  "font-family",
  "font-size",
  "font-weight",
  "text-anchor",
  "dominant-baseline",
  "display",
  "visibility",
] as const;
const STILL = "animate, animateMotion, animateTransform, set, .moving, foreignObject, script";

/** A drawing of the page as SVG text of its own: styles written out, nothing that moves. */
export function svgText(svg: SVGSVGElement): string {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  const from = svg.querySelectorAll("*");
  const to = copy.querySelectorAll("*");
  to.forEach((element, i) => {
    const source = from[i];
    if (source) writeLook(source, element);
  });
  writeLook(svg, copy);
  for (const element of copy.querySelectorAll(STILL)) element.remove();
  for (const element of [copy, ...copy.querySelectorAll("*")])
    for (const { name } of [...element.attributes])
      if (name === "class" || name === "tabindex" || name.startsWith("data-") || name.startsWith("on"))
        element.removeAttribute(name);
  const box = svg.viewBox.baseVal;
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("width", String(box.width || svg.clientWidth));
  copy.setAttribute("height", String(box.height || svg.clientHeight));
  return new XMLSerializer().serializeToString(copy);
}

function writeLook(source: Element, target: Element) {
  const style = getComputedStyle(source);
  target.removeAttribute("style");
  for (const name of LOOK) {
    const value = style.getPropertyValue(name);
    if (value) target.setAttribute(name, value);
  }
  if (target.tagName !== "text" && target.tagName !== "tspan") return;
  // Words are drawn plainly: see-through ones are cut off, and haloes laid over them, by some programs that print.
  target.setAttribute("fill-opacity", "1");
  target.removeAttribute("opacity");
  if (style.paintOrder.startsWith("stroke")) target.setAttribute("stroke", "none");
}

export function download(name: string, content: Blob) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(content);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}

export const saveSvg = (name: string, svg: SVGSVGElement) =>
  download(`${name}.svg`, new Blob([svgText(svg)], { type: "image/svg+xml" }));

/** Twice the drawing's size, on the page's paper. */
export async function savePng(name: string, svg: SVGSVGElement) {
  const picture = new Image();
  picture.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svgText(svg))}`;
  await picture.decode();
  const canvas = document.createElement("canvas");
  canvas.width = picture.width * 2;
  canvas.height = picture.height * 2;
  const context = canvas.getContext("2d");
  if (!context) return;
  context.fillStyle = getComputedStyle(document.body).backgroundColor;
  context.fillRect(0, 0, canvas.width, canvas.height);
  context.drawImage(picture, 0, 0, canvas.width, canvas.height);
  canvas.toBlob((blob) => blob && download(`${name}.png`, blob));
}

export type Table = { head: string[]; rows: (string | number)[][] };

const cell = (value: string | number) =>
  /[",\n]/.test(String(value)) ? `"${String(value).replaceAll('"', '""')}"` : String(value);

export const saveCsv = (name: string, table: Table) =>
  download(
    `${name}.csv`,
    new Blob([[table.head, ...table.rows].map((r) => r.map(cell).join(",")).join("\n")], { type: "text/csv" }),
  );
