import { createContext } from "react";
import type { RenderPool } from "./render-pool.ts";

/** The render workers of the negative on the bench. */
export const PoolContext = createContext<RenderPool | null>(null);
