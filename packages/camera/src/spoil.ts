/**
 * Spoils a file as failing cards and cables do: cut short, bytes of the header changed, bytes anywhere changed, a burst of
 * damage, a run of zeros or of ones, a piece repeated in the wrong place, or a number of the directory made huge.
 * @param random - 0–1; the same numbers spoil in the same way.
 */
export function spoil(bytes: Uint8Array, random: () => number): Uint8Array {
  const out = Uint8Array.from(bytes);
  const place = (span = out.length) => Math.floor(random() * span);
  const scatter = (count: number, span: number) => {
    for (let i = 0; i < count; i++) out[place(span)] = Math.floor(random() * 256);
  };
  const head = Math.min(out.length, 400);
  switch (Math.floor(random() * 8)) {
    case 0:
      return out.slice(0, place());
    case 1:
      scatter(1 + Math.floor(random() * 8), head);
      return out;
    case 2:
      scatter(1 + Math.floor(random() * 8), out.length);
      return out;
    case 3:
      scatter(200, out.length);
      return out;
    case 4:
      out.fill(random() < 0.5 ? 0 : 255, place(), place());
      return out;
    case 5: {
      const from = place();
      out.copyWithin(place(), from, from + place(2000));
      return out;
    }
    case 6: {
      // Four bytes that look like a size or an offset.
      const at = place(head - 4);
      out.set([place(256), place(256), random() < 0.5 ? 255 : 0, random() < 0.5 ? 127 : 0], at);
      return out;
    }
    default: {
      const extra = new Uint8Array(out.length + place(4096));
      extra.set(out);
      return extra;
    }
  }
}
