import { useEffect, useRef } from "react";

const HATCH_PX = 7;

interface HatchingProps {
  /** Cells of the picture, row by row. */
  readonly width: number;
  readonly height: number;
  readonly isHatched: (cell: number) => boolean;
  /** What the hatching depends on; it is drawn anew when that is another. */
  readonly of: readonly unknown[];
  readonly lines: Lines;
  /** Where the picture lies, CSS pixels. */
  readonly place: { readonly left: number; readonly top: number; readonly width: number; readonly height: number };
  readonly testId: string;
}

/** Rising or falling lines, light or dark. */
export interface Lines {
  readonly rising: boolean;
  readonly colour: string;
}

/** Slanting lines over parts of the picture. */
export function Hatching({ width, height, isHatched, of, lines, place, testId }: HatchingProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const across = Math.max(1, Math.round(place.width));
  const down = Math.max(1, Math.round(place.height));
  useEffect(() => {
    const mask = new ImageData(width, height);
    for (let i = 0; i < width * height; i++) mask.data[4 * i + 3] = isHatched(i) ? 255 : 0;
    const small = new OffscreenCanvas(width, height);
    small.getContext("2d")!.putImageData(mask, 0, 0);
    const context = canvas.current!.getContext("2d")!;
    context.globalCompositeOperation = "copy";
    context.imageSmoothingEnabled = false;
    context.drawImage(small, 0, 0, across, down);
    context.globalCompositeOperation = "source-in";
    context.fillStyle = context.createPattern(square(lines), "repeat")!;
    context.fillRect(0, 0, across, down);
    // `of` stands for the function.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [width, height, across, down, lines, ...of]);
  return (
    <canvas
      ref={canvas}
      data-testid={testId}
      width={across}
      height={down}
      className="pointer-events-none absolute"
      style={{ left: place.left, top: place.top, width: across, height: down }}
    />
  );
}

/** A square of lines that meets itself. */
function square({ rising, colour }: Lines): OffscreenCanvas {
  const tile = new OffscreenCanvas(HATCH_PX, HATCH_PX);
  const context = tile.getContext("2d")!;
  context.strokeStyle = colour;
  context.lineWidth = 1.4;
  const [from, to] = rising ? [HATCH_PX, 0] : [0, HATCH_PX];
  for (const shift of [-HATCH_PX, 0, HATCH_PX]) {
    context.beginPath();
    context.moveTo(shift, from);
    context.lineTo(shift + HATCH_PX, to);
    context.stroke();
  }
  return tile;
}
