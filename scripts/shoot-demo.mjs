// Photographs the demo negatives from a folder of scenes. Usage: node scripts/shoot-demo.mjs SCENES_DIR [NAME]
// The results are committed in demo/negatives; run again only when the scenes or the camera change.
import { execFileSync } from "node:child_process";
import { mkdirSync } from "node:fs";
import { join } from "node:path";

const SHOTS = [
  [
    "dye-works",
    "orrow-0101",
    "--iso 100 --bits 12 --stops -0.15 --fall-off-stops 0.5 --blur-px 0.5 --shutter-seconds 0.004 --f-number 8 --taken-at",
    "2026:10:24 16:42:10",
  ],
  [
    "dye-works",
    "orrow-0102",
    "--iso 100 --stops -3 --blur-px 0.5 --seed 2 --shutter-seconds 0.0005 --f-number 8 --taken-at",
    "2026:10:24 16:42:31",
  ],
  [
    "reed-marsh",
    "orrow-0103",
    "--iso 200 --stops -0.3 --fall-off-stops 0.4 --blur-px 0.5 --shutter-seconds 0.002 --f-number 11 --taken-at",
    "2026:10:25 07:18:44",
  ],
  [
    "puppet-window",
    "orrow-0104",
    "--iso 400 --blur-px 0.5 --seed 4 --shutter-seconds 0.016 --f-number 2.8 --taken-at",
    "2026:10:25 10:03:02",
  ],
  [
    "puppet-lamp",
    "orrow-0105",
    "--iso 1600 --bits 12 --stops 0.3 --seed 5 --turned --shutter-seconds 0.016 --f-number 2 --taken-at",
    "2026:10:25 18:27:55",
  ],
  [
    "dyers-table",
    "orrow-0106",
    "--iso 100 --fall-off-stops 0.6 --blur-px 0.5 --seed 6 --shutter-seconds 0.5 --f-number 8 --taken-at",
    "2026:10:26 11:40:20",
  ],
  [
    "dyers-table",
    "orrow-0107",
    "--iso 6400 --bits 12 --stops -0.5 --seed 7 --shutter-seconds 0.004 --f-number 8 --taken-at",
    "2026:10:26 11:41:07",
  ],
  [
    "white-crockery",
    "orrow-0108",
    "--iso 200 --stops -0.4 --blur-px 0.5 --seed 8 --pattern GRBG --shutter-seconds 0.03 --f-number 5.6 --taken-at",
    "2026:10:26 15:12:36",
  ],
  [
    "night-lane",
    "orrow-0109",
    "--iso 3200 --bits 12 --blur-px 0.5 --seed 9 --turned --pattern BGGR --shutter-seconds 0.03 --f-number 2 --taken-at",
    "2026:10:27 19:50:12",
  ],
  [
    "reed-marsh",
    "orrow-0110",
    "--iso 200 --stops -0.3 --fall-off-stops 1.4 --distortion 0.06 --dust 7 --blur-px 0.6 --seed 10 --shutter-seconds 0.004 --f-number 22 --taken-at",
    "2026:10:28 07:30:12",
  ],
  [
    "white-crockery",
    "orrow-0111",
    "--iso 100 --stops 0.7 --bits 12 --blur-px 0.5 --seed 11 --shutter-seconds 0.12 --f-number 5.6 --taken-at",
    "2026:10:28 15:20:40",
  ],
  [
    "straw-bank",
    "orrow-0112",
    "--iso 200 --stops -0.3 --bits 12 --blur-px 0.5 --seed 12 --shutter-seconds 0.002 --f-number 2.8 --taken-at",
    "2026:10:29 14:05:30",
  ],
  ["straw-bank", "orrow-0113.jpg", "--stops -0.3 --quality 88 --seed 13 --taken-at", "2026:10:29 14:05:58"],
];

const only = process.argv[3];
const scenes = process.argv[2];
if (!scenes) {
  console.error("Usage: node scripts/shoot-demo.mjs SCENES_DIR");
  process.exit(2);
}
const out = new URL("../demo/negatives/", import.meta.url).pathname;
mkdirSync(out, { recursive: true });
for (const [scene, name, options, takenAt] of SHOTS) {
  if (only && name !== only) continue;
  const file = name.endsWith(".jpg") ? name : `${name}.dng`;
  const args = [join(scenes, `${scene}.json`), "--out", join(out, file), ...options.split(" "), takenAt];
  process.stdout.write(execFileSync("npx", ["yelm-camera", ...args], { encoding: "utf8" }));
}
