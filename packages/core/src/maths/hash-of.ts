/**
 * A short name for a long text: 53 bits of two multiplicative hashes mixed at the end. Two of the few thousand texts
 * that live at a time share one with a chance below 1 in 10⁹.
 */
export function hashOf(text: string): string {
  let a = 0x9e3779b9;
  let b = 0x85ebca6b;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    a = Math.imul(a ^ code, 2654435761);
    b = Math.imul(b ^ code, 1597334677);
  }
  a = Math.imul(a ^ (a >>> 16), 2246822507) ^ Math.imul(b ^ (b >>> 13), 3266489909);
  b = Math.imul(b ^ (b >>> 16), 2246822507) ^ Math.imul(a ^ (a >>> 13), 3266489909);
  return ((b & 0x1fffff) * 4294967296 + (a >>> 0)).toString(36);
}
