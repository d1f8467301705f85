/**
 * Malvar, He and Cutler 2004: bilinear interpolation corrected by the Laplacian of the known channel (5×5, gains
 * 1/2, 5/8, 3/4). `src` holds scaled mosaic rows with a 2-pixel border on every side (stride = width + 4);
 * (redX, redY) is the parity of the red site within the unpadded block. Writes three planes of width × height.
 */
export function demosaicMalvar(src: usize, out: usize, width: i32, height: i32, redX: i32, redY: i32): void {
  const stride = width + 4;
  const plane = <usize>(width * height) << 2;
  for (let y = 0; y < height; y++) {
    const redRow = ((y ^ redY) & 1) == 0;
    for (let x = 0; x < width; x++) {
      const p = src + (<usize>((y + 2) * stride + x + 2) << 2);
      const at = out + (<usize>(y * width + x) << 2);
      const redColumn = ((x ^ redX) & 1) == 0;
      const c = load<f32>(p);
      const n = px(p, -stride), s = px(p, stride), w = px(p, -1), e = px(p, 1);
      const n2 = px(p, -2 * stride), s2 = px(p, 2 * stride), w2 = px(p, -2), e2 = px(p, 2);
      if (redRow == redColumn) {
        const diagonal = px(p, -stride - 1) + px(p, -stride + 1) + px(p, stride - 1) + px(p, stride + 1);
        const far = n2 + s2 + w2 + e2;
        const green = (c * <f32>4 + (n + s + w + e) * <f32>2 - far) * <f32>0.125;
        const other = (c * <f32>6 + diagonal * <f32>2 - far * <f32>1.5) * <f32>0.125;
        store<f32>(at, redRow ? c : other);
        store<f32>(at + plane, green);
        store<f32>(at + 2 * plane, redRow ? other : c);
      } else {
        const diagonal = px(p, -stride - 1) + px(p, -stride + 1) + px(p, stride - 1) + px(p, stride + 1);
        const along = (c * <f32>5 + (w + e) * <f32>4 - diagonal - w2 - e2 + (n2 + s2) * <f32>0.5) * <f32>0.125;
        const across = (c * <f32>5 + (n + s) * <f32>4 - diagonal - n2 - s2 + (w2 + e2) * <f32>0.5) * <f32>0.125;
        store<f32>(at, redRow ? along : across);
        store<f32>(at + plane, c);
        store<f32>(at + 2 * plane, redRow ? across : along);
      }
    }
  }
}

// @ts-ignore: decorator
@inline
function px(p: usize, offset: i32): f32 {
  return load<f32>(p + <usize>(offset << 2));
}

/** Planes ← matrix (row-major f32) · planes, in place, n values each (a multiple of 4). */
export function applyMatrix(red: usize, green: usize, blue: usize, n: i32, matrix: usize): void {
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const r = v128.load(red + at), g = v128.load(green + at), b = v128.load(blue + at);
    v128.store(red + at, row(matrix, r, g, b));
    v128.store(green + at, row(matrix + 12, r, g, b));
    v128.store(blue + at, row(matrix + 24, r, g, b));
  }
}

// @ts-ignore: decorator
@inline
function row(m: usize, r: v128, g: v128, b: v128): v128 {
  const rg = f32x4.add(f32x4.mul(v128.load32_splat(m), r), f32x4.mul(v128.load32_splat(m + 4), g));
  return f32x4.add(rg, f32x4.mul(v128.load32_splat(m + 8), b));
}
