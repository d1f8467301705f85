/**
 * Lossless JPEG (ITU-T T.81, process 14, predictor 1) of two interleaved components: even and odd columns, so that
 * each site is predicted by the nearest of its own colour. The Huffman table is made for the data.
 * @param data - codes of up to 16 bits; `stride` values a row; `width` is even.
 */
export function encodeLosslessJpeg(
  data: Uint16Array,
  stride: number,
  left: number,
  top: number,
  width: number,
  height: number,
  bits: number,
): Uint8Array {
  const differences = predict(data, stride, left, top, width, height, bits);
  const counts = new Array<number>(17).fill(0);
  for (const d of differences) counts[category(d)]++;
  const lengths = codeLengths(counts);
  const codes = canonicalCodes(lengths);
  const out = new BitWriter(width * height * 2 + 256);
  out.word(0xffd8);
  const symbols = lengths.map((length, symbol) => ({ length, symbol })).filter((s) => s.length > 0);
  symbols.sort((a, b) => a.length - b.length || a.symbol - b.symbol);
  out.word(0xffc4);
  out.word(19 + symbols.length);
  out.byte(0);
  for (let length = 1; length <= 16; length++) out.byte(symbols.filter((s) => s.length === length).length);
  for (const { symbol } of symbols) out.byte(symbol);
  out.word(0xffc3);
  for (const word of [14]) out.word(word);
  out.byte(bits);
  out.word(height);
  out.word(width / 2);
  out.byte(2);
  for (const component of [0, 1]) for (const byte of [component, 0x11, 0]) out.byte(byte);
  out.word(0xffda);
  out.word(10);
  for (const byte of [2, 0, 0, 1, 0, 1, 0, 0]) out.byte(byte);
  for (const d of differences) {
    const size = category(d);
    out.bits(codes[size], lengths[size]);
    if (size > 0 && size < 16) out.bits(d < 0 ? d + (1 << size) - 1 : d, size);
  }
  out.flush();
  out.word(0xffd9);
  return out.result();
}

function predict(
  data: Uint16Array,
  stride: number,
  left: number,
  top: number,
  width: number,
  height: number,
  bits: number,
): Int32Array {
  const out = new Int32Array(width * height);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const at = (top + y) * stride + left + x;
      const guess = x >= 2 ? data[at - 2] : y > 0 ? data[at - stride] : 1 << (bits - 1);
      out[i] = ((data[at] - guess + 32768) & 0xffff) - 32768;
    }
  return out;
}

function category(d: number): number {
  return d === 0 ? 0 : 32 - Math.clz32(Math.abs(d));
}

/** Huffman code lengths of at most 16 bits, none all ones (T.81 K.2): a reserved symbol takes the longest code. */
function codeLengths(counts: readonly number[]): number[] {
  const RESERVED = counts.length;
  let nodes = counts.map((count, symbol) => ({ count, symbols: [symbol] })).filter((node) => node.count > 0);
  nodes.push({ count: 0, symbols: [RESERVED] });
  const lengths = new Array<number>(counts.length + 1).fill(0);
  while (nodes.length > 1) {
    nodes = nodes.sort((a, b) => b.count - a.count || (a.symbols.includes(RESERVED) ? 1 : -1));
    const a = nodes.pop()!;
    const b = nodes.pop()!;
    for (const symbol of [...a.symbols, ...b.symbols]) lengths[symbol]++;
    nodes.push({ count: a.count + b.count, symbols: [...b.symbols, ...a.symbols] });
  }
  // With 17 categories a code of more than 16 bits would need Fibonacci-like counts; fall back to equal lengths.
  if (Math.max(...lengths) > 16) return counts.map((count) => (count > 0 ? 5 : 0));
  return lengths.slice(0, counts.length);
}

function canonicalCodes(lengths: readonly number[]): number[] {
  const codes = new Array<number>(lengths.length).fill(0);
  let code = 0;
  for (let length = 1; length <= 16; length++, code <<= 1)
    lengths.forEach((l, symbol) => {
      if (l === length) codes[symbol] = code++;
    });
  return codes;
}

/** Bytes and, once the scan has begun, bits with a zero stuffed after every 0xff. */
class BitWriter {
  #bytes: Uint8Array;
  #length = 0;
  #accumulator = 0;
  #pending = 0;

  constructor(capacity: number) {
    this.#bytes = new Uint8Array(capacity);
  }

  byte(value: number): void {
    if (this.#length === this.#bytes.length) {
      const grown = new Uint8Array(2 * this.#length);
      grown.set(this.#bytes);
      this.#bytes = grown;
    }
    this.#bytes[this.#length++] = value;
  }

  word(value: number): void {
    this.byte(value >> 8);
    this.byte(value & 0xff);
  }

  bits(value: number, count: number): void {
    for (let i = count - 1; i >= 0; i--) {
      this.#accumulator = (this.#accumulator << 1) | ((value >> i) & 1);
      if (++this.#pending === 8) {
        this.byte(this.#accumulator);
        if (this.#accumulator === 0xff) this.byte(0);
        this.#accumulator = this.#pending = 0;
      }
    }
  }

  flush(): void {
    if (this.#pending > 0) this.bits(0xff, 8 - this.#pending);
  }

  result(): Uint8Array {
    return this.#bytes.slice(0, this.#length);
  }
}
