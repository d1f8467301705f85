import { Type, type TSchema } from "@sinclair/typebox";

export const closed = { additionalProperties: false } as const;

/** A number with its range, default, unit and meaning; the one place from which checks, controls and docs take them. */
export const number = (minimum: number, maximum: number, value: number, unit: string, description: string) =>
  Type.Number({ minimum, maximum, default: value, unit, description });

/** A share, 0–1. */
export const fraction = (value: number, description: string) => number(0, 1, value, "fraction", description);

/** One of a few words. */
export const choice = <T extends string>(values: readonly T[], value: T, description: string) =>
  Type.Unsafe<T>({ type: "string", enum: [...values], default: value, description });

/** A closed object of fields. */
export const group = <T extends Record<string, TSchema>>(properties: T, description: string) =>
  Type.Object(properties, { ...closed, description });

/** The name under which an item of a list is known, whatever its place. */
export const stableId = (description: string) =>
  Type.String({ minLength: 1, maxLength: 40, pattern: "^[A-Za-z0-9_-]+$", description });

/** A switch that is on unless it is said otherwise. */
export const switchedOn = () => Type.Boolean({ default: true, description: "Switched on." });
