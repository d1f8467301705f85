/** A label that wants to stand at a place. */
export interface Label {
  readonly id: string;
  readonly x: number;
  readonly y: number;
  readonly text: string;
  readonly colour: string;
}

const HEIGHT = 22;
const GAP = 2;
const widthOf = (text: string) => 14 + 7.5 * text.length;

/** Labels moved down until none lies on another, inside the pane where they can be. */
export function placeLabels(
  labels: readonly Label[],
  pane: { readonly width: number; readonly height: number },
): Label[] {
  const placed: Label[] = [];
  for (const label of [...labels].sort((p, q) => p.y - q.y)) {
    const half = widthOf(label.text) / 2;
    const x = Math.min(Math.max(label.x, half), Math.max(half, pane.width - half));
    let y = Math.max(label.y, HEIGHT / 2);
    const hits = () =>
      placed.find(
        (other) => Math.abs(other.y - y) < HEIGHT + GAP && Math.abs(other.x - x) < half + widthOf(other.text) / 2 + GAP,
      );
    for (let other = hits(); other; other = hits()) y = other.y + HEIGHT + GAP;
    placed.push({ ...label, x, y });
  }
  return placed;
}

/** Number and label, on a plate that keeps them readable on any picture; a click takes the shape in hand. */
export function LabelPlate({ label: { x, y, text, colour }, onChoose }: { label: Label; onChoose: () => void }) {
  const width = widthOf(text);
  return (
    <g data-handle className="cursor-pointer" style={{ pointerEvents: "auto" }} onClick={onChoose}>
      <rect x={x - width / 2} y={y - HEIGHT / 2} width={width} height={HEIGHT} rx={2} fill="#000" fillOpacity={0.62} />
      <text x={x} y={y + 5} textAnchor="middle" className="font-serif" fontSize={16} fill={colour} xmlSpace="preserve">
        {text}
      </text>
    </g>
  );
}
