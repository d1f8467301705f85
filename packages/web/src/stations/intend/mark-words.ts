import type { MarkKind } from "@yelm/core";
import { INTEND_ACTS } from "./acts.ts";

/** How each mark is drawn and called. */
export const MARKS: Readonly<
  Record<
    MarkKind,
    { readonly name: string; readonly sign: string; readonly act: (typeof INTEND_ACTS)[keyof typeof INTEND_ACTS] }
  >
> = {
  subject: { name: "the subject", sign: "S", act: INTEND_ACTS["mark-subject"] },
  "bring up": { name: "bring up", sign: "+", act: INTEND_ACTS["mark-bring-up"] },
  "hold back": { name: "hold back", sign: "−", act: INTEND_ACTS["mark-hold-back"] },
  "keep detail": { name: "must keep detail", sign: "≈", act: INTEND_ACTS["mark-keep-detail"] },
  "may go black": { name: "may go black", sign: "●", act: INTEND_ACTS["mark-may-go-black"] },
  "may go white": { name: "may go white", sign: "○", act: INTEND_ACTS["mark-may-go-white"] },
};

/** Name of the tool that draws a mark. */
export const markTool = (kind: MarkKind): string => `mark ${kind}`;
