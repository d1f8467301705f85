import type { CaptureInfo, Negative } from "@yelm/core";
import { Group } from "../../controls/group.tsx";

/** What is known of the capture, and who made its picture out of the file. */
export function CaptureGroup({ negative }: { negative: Negative }) {
  const { capture, fileName, width, height } = negative;
  const rows = [
    ["file", fileName],
    ["size", `${width} × ${height}, ${((width * height) / 1e6).toFixed(1)} MP`],
    ["camera", [capture.make, capture.model].filter(Boolean).join(" ") || "not stated"],
    ["lens", capture.lens || "not stated"],
    ["exposure", exposure(capture) || "not stated"],
    ["taken", capture.takenAt?.replace("T", ", ") ?? "not stated"],
    ["sensor", sensor(capture)],
    ["levels", capture.black ? `black ${[...new Set(capture.black)].join(" ")}, white ${capture.white}` : "none"],
  ];
  return (
    <Group title="Capture" folded={exposure(capture)}>
      <dl className="grid grid-cols-[72px_1fr] gap-y-0.5">
        {rows.map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-quiet">{name}</dt>
            <dd className="break-words">{value}</dd>
          </div>
        ))}
      </dl>
      {limits(capture).map((limit) => (
        <p key={limit} className="text-quiet mt-1">
          {limit}
        </p>
      ))}
    </Group>
  );
}

function exposure({ iso, shutterSeconds, fNumber, focalLengthMm }: CaptureInfo): string {
  const shutter =
    shutterSeconds && (shutterSeconds >= 0.4 ? `${shutterSeconds} s` : `1/${Math.round(1 / shutterSeconds)}`);
  return [
    iso && `ISO ${iso}`,
    shutter,
    fNumber && `f/${Number(fNumber.toFixed(1))}`,
    focalLengthMm && `${focalLengthMm} mm`,
  ]
    .filter(Boolean)
    .join(", ");
}

function sensor({ cfa, demosaic, kind }: CaptureInfo): string {
  if (demosaic === "directional") return `${cfa}, demosaiced by direction`;
  if (demosaic === "unpacker") return "no Bayer pattern: the unpacker's own colours are taken as they are";
  return kind === "raw" ? "linear" : "none: the file holds finished colours";
}

/** What a file of this kind cannot bear, told before it shows. */
function limits({ bits, halvedColour, coarseColour }: CaptureInfo): string[] {
  return [
    bits === 8 && "Eight bits a channel: smooth skies may show steps when a family is moved far or grade is steep.",
    halvedColour &&
      "Colour is stored at half the resolution of light and was rebuilt along it: fine edges between families bear a stop, hardly two.",
    coarseColour &&
      "The file was compressed hard and its colour smoothed again: look for blocks at 100 % where a family moves by more than a stop.",
  ].filter((limit) => limit !== false && limit !== undefined);
}
