// Writes docs/recipe.md from the recipe's schema, so that the two cannot drift apart.
import { writeFileSync, readFileSync, existsSync } from "node:fs";
import { recipeSchema, RECIPE_VERSION } from "../packages/core/dist/index.js";

const lines = [
  "# The recipe",
  "",
  `Everything a print is, as JSON, version ${RECIPE_VERSION}. This page is generated from the schema; \`npx yelm recipe --schema\` prints`,
  "the schema itself and `npx yelm recipe --default` a fresh recipe. Lengths are fractions of the negative's long edge, so a",
  "recipe means the same at every size. Every field is required; unknown fields are refused.",
  "",
];

function describe(path, schema) {
  const variants = schema.anyOf?.filter((variant) => variant.type !== "null");
  const inner = variants?.length === 1 ? variants[0] : schema;
  if (inner.type === "object") {
    lines.push(
      `## \`${path || "recipe"}\``,
      "",
      inner.description ?? "",
      "",
      "| field | values | default | meaning |",
      "|---|---|---|---|",
    );
    const below = [];
    for (const [name, field] of Object.entries(inner.properties)) {
      lines.push(`| \`${name}\` | ${values(field)} | ${standard(field)} | ${field.description ?? ""} |`);
      for (const [child, at] of nested(field, path ? `${path}.${name}` : name)) below.push([at, child]);
    }
    lines.push("");
    for (const [at, child] of below) describe(at, child);
  }
}

function nested(field, at) {
  if (field.type === "object") return [[field, at]];
  if (field.type === "array" && field.items?.type === "object") return [[field.items, `${at}[]`]];
  return (field.anyOf ?? [])
    .filter((variant) => variant.type === "object")
    .map((variant) => [variant, variant.properties.kind ? `${at} (${variant.properties.kind.const})` : at]);
}

function values(field) {
  if (field.enum) return field.enum.map((v) => `\`${v}\``).join(", ");
  if (field.const !== undefined) return `\`${field.const}\``;
  if (field.anyOf)
    return field.anyOf.map((v) => (v.type === "null" ? "null" : (v.properties?.kind?.const ?? v.type))).join(" or ");
  if (field.type === "number" || field.type === "integer")
    return `${round(field.minimum)} to ${round(field.maximum)}${field.unit ? ` ${field.unit}` : ""}`;
  if (field.type === "array") return "list";
  return field.type ?? "";
}

const round = (v) => (v === undefined ? "" : Number(v.toFixed(4)));
const standard = (field) =>
  field.default === undefined
    ? ""
    : `\`${JSON.stringify(typeof field.default === "number" ? round(field.default) : field.default)}\``;

describe("", recipeSchema);
const text = `${lines.join("\n").trim()}\n`;
const out = new URL("../docs/recipe.md", import.meta.url);
if (!existsSync(out) || readFileSync(out, "utf8") !== text) writeFileSync(out, text);
