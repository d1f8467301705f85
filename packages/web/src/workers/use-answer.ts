import { keepPreviousData, useQuery, type UseQueryResult } from "@tanstack/react-query";
import { use, useEffect, useRef, useState } from "react";
import { PoolContext } from "./pool-context.ts";
import type { AnswerOf, InputOf, QuestionName } from "./questions.ts";
import type { RenderPool } from "./render-pool.ts";

/** The render workers of the negative on the bench. */
export function usePool(): RenderPool {
  const pool = use(PoolContext);
  if (!pool) throw new Error("Expected a bench around this.");
  return pool;
}

interface AnswerOptions {
  /** What the answer depends on; asked again when it is another. */
  readonly key: string;
  /** Asked once the key has rested for this long. */
  readonly restMs: number;
  readonly enabled?: boolean;
}

/** An answer of the render workers. While a newer one is made the last stands; errors stand where it would. */
export function useAnswer<K extends QuestionName>(
  name: K,
  input: InputOf<K>,
  options: AnswerOptions,
): UseQueryResult<AnswerOf<K>> {
  const pool = usePool();
  return useMeasured(name, (signal) => pool.ask(name, input, signal), options);
}

/** The same for something that is worked out in several steps. */
export function useMeasured<T>(
  name: string,
  measure: (signal: AbortSignal) => Promise<T>,
  { key, restMs, enabled = true }: AnswerOptions,
): UseQueryResult<T> {
  const pool = usePool();
  const rested = useRested(key, restMs);
  const latest = useRef(measure);
  latest.current = measure;
  return useQuery<T>({
    queryKey: ["answer", pool.id, name, rested],
    queryFn: ({ signal }) => latest.current(signal),
    enabled: enabled && rested === key,
    placeholderData: keepPreviousData,
    // The same question has the same answer for as long as the negative is open.
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
}

/** A value as it was when it last rested. */
function useRested(value: string, ms: number): string {
  const [rested, setRested] = useState(value);
  useEffect(() => {
    if (value === rested) return;
    const timer = setTimeout(() => setRested(value), ms);
    return () => clearTimeout(timer);
  }, [value, rested, ms]);
  return rested;
}
