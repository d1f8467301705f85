// Packs scenes of linear light for the simulated camera that ships with Yelm: strips of square-root codes, rounded to 11
// significant bits, which lies below the camera's own noise. Usage: node scripts/pack-scenes.mjs SCENES_DIR
// The results are committed in demo/scenes; run again only when the scenes change.
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import sharp from "sharp";

const SCENES = [
  ["dye-works", "The dye-works from the pond", 0],
  ["reed-marsh", "Reed marsh, first light", -0.3],
  ["puppet-window", "Puppet by the window", 0],
  ["dyers-table", "The dyer's table", 0],
  ["night-lane", "The lane at night", 0],
];
const BITS = 11;
const STEP = 1 << (16 - BITS);

const from = process.argv[2];
if (!from) {
  console.error("Usage: node scripts/pack-scenes.mjs SCENES_DIR");
  process.exit(2);
}
const out = new URL("../demo/scenes/", import.meta.url).pathname;
mkdirSync(out, { recursive: true });
for (const [name, title, exposureStops] of SCENES) {
  const { width, height, scale, strips } = JSON.parse(readFileSync(join(from, `${name}.json`), "utf8"));
  for (const { file } of strips) {
    const image = sharp(join(from, file)).toColourspace("rgb16").raw({ depth: "ushort" });
    const { data, info } = await image.toBuffer({ resolveWithObject: true });
    const codes = new Uint16Array(data.buffer, data.byteOffset, data.length / 2);
    codes.forEach((code, i) => (codes[i] = Math.min(65535, Math.round(code / STEP) * STEP)));
    await sharp(codes, { raw: { width: info.width, height: info.height, channels: 3 } })
      .toColourspace("rgb16")
      .png({ compressionLevel: 9, adaptiveFiltering: true })
      .toFile(join(out, file));
  }
  const description = { title, exposureStops, width, height, scale, strips };
  writeFileSync(join(out, `${name}.json`), JSON.stringify(description, null, 2) + "\n");
  console.log(name);
}
