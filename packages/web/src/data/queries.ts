import { keepPreviousData, QueryClient, useMutation, useQuery } from "@tanstack/react-query";
import type {
  Card,
  ExportJob,
  ExportOptions,
  FoundByName,
  Habits,
  ImportJob,
  Look,
  Negative,
  Print,
  Roll,
  ServerEvent,
  SetEntry,
  SheetEntry,
} from "@yelm/core";
import { useEffect } from "react";
import { api, ApiError } from "./api.ts";
import { Watchers } from "./watchers.ts";

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => !(error instanceof ApiError) && count < 20,
      retryDelay: (attempt) => Math.min(3000, 300 * 2 ** attempt),
      networkMode: "always",
    },
    mutations: { networkMode: "always" },
  },
});

export const useRolls = () => useQuery({ queryKey: ["rolls"], queryFn: () => api<Roll[]>("/rolls") });
export const useRoll = (id: string | undefined) =>
  useQuery({ queryKey: ["rolls", id], queryFn: () => api<Roll>(`/rolls/${id}`), enabled: id !== undefined });
export const useRollsPutAway = (enabled: boolean) =>
  useQuery({ queryKey: ["rolls", "away"], queryFn: () => api<Roll[]>("/rolls?away=1"), enabled });
/** A roll's contact sheet, or what was put away of it. */
export const useRollSheet = (rollId: string, away = false, enabled = true) =>
  useQuery({
    queryKey: ["negatives", { rollId, away }],
    queryFn: () => api<SheetEntry[]>(`/rolls/${rollId}/sheet${away ? "?away=1" : ""}`),
    enabled,
  });
export const useImports = () => useQuery({ queryKey: ["imports"], queryFn: () => api<ImportJob[]>("/imports") });
export const useFoundByName = (text: string) =>
  useQuery({
    queryKey: ["find", text],
    queryFn: () => api<FoundByName>(`/find?text=${encodeURIComponent(text)}`),
    enabled: text.length >= 2,
    placeholderData: keepPreviousData,
  });
export const useCard = () => useQuery({ queryKey: ["card"], queryFn: () => api<Card>("/card") });
export const negativeQuery = (id: string) => ({
  queryKey: ["negatives", id],
  queryFn: () => api<Negative>(`/negatives/${id}`),
});
export const useNegative = (id: string) => useQuery(negativeQuery(id));
export const usePrintsOfNegative = (negativeId: string | undefined) =>
  useQuery({
    queryKey: ["prints", { negativeId }],
    queryFn: () => api<Print[]>(`/prints?negative=${negativeId}`),
    enabled: negativeId !== undefined,
  });
/** The user's own looks. */
export const useLooks = () => useQuery({ queryKey: ["looks"], queryFn: () => api<Look[]>("/looks") });
/** What this user keeps and takes back by habit. */
export const useHabits = () =>
  useQuery({ queryKey: ["habits"], queryFn: () => api<Habits>("/habits"), staleTime: 60_000 });
/** The best prints of a roll side by side. */
export const useSet = (rollId: string | undefined) =>
  useQuery({
    queryKey: ["negatives", "set", rollId],
    queryFn: () => api<SetEntry[]>(`/rolls/${rollId}/set`),
    enabled: rollId !== undefined,
    staleTime: 30_000,
  });
export const useExports = () => useQuery({ queryKey: ["exports"], queryFn: () => api<ExportJob[]>("/exports") });

export const useStartExport = () =>
  useMutation({
    mutationFn: (body: { printIds: string[]; options: Partial<ExportOptions> }) =>
      api<ExportJob[]>("/exports", { method: "POST", body }),
    onSettled: () => queryClient.invalidateQueries({ queryKey: ["exports"] }),
  });
export const useCancelExport = () =>
  useMutation({
    mutationFn: (id: string) => api<ExportJob>(`/exports/${id}/cancel`, { method: "POST" }),
    onSettled: () => queryClient.invalidateQueries({ queryKey: ["exports"] }),
  });

const notes = new Watchers<[head?: string]>();
const prints = new Watchers<[told?: Pick<Print, "head" | "name">]>();
const looks = new Watchers<[done: number, of: number]>();

/** Runs something whenever what stands beside a print was changed, and when the server is back. @returns a function that stops it. */
export const watchNotes = (id: string, onChange: (head?: string) => void) => notes.watch(id, onChange);
/** Runs something whenever a print was changed, here or elsewhere, and when the server is back. @returns a function that stops it. */
export const watchPrint = (id: string, onChange: (told?: Pick<Print, "head" | "name">) => void) =>
  prints.watch(id, onChange);
/** Tells how far a look has been fitted to many prints. @returns a function that stops it. */
export const watchLook = (id: string, onProgress: (done: number, of: number) => void) => looks.watch(id, onProgress);

/** What each kind of event makes stale. */
const STALE: Readonly<Record<ServerEvent["kind"], readonly string[]>> = {
  print: [],
  notes: [],
  look: [],
  export: ["exports"],
  import: ["imports"],
  prints: ["prints", "negatives"],
  negatives: ["negatives", "prints", "rolls"],
};
/** Events come in hundreds while a card is read; what they make stale is asked for again this often at most. */
const EVENTS_MS = 400;

/** Keeps what is shown in step with the server. */
export function useServerEvents(): void {
  useEffect(() => {
    const source = new EventSource("/api/events");
    const stale = new Set<string>();
    let timer: ReturnType<typeof setTimeout> | undefined;
    const ask = () => {
      timer = undefined;
      for (const key of stale) void queryClient.invalidateQueries({ queryKey: [key] });
      stale.clear();
    };
    source.onmessage = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as ServerEvent;
      if (event.kind === "print") prints.tell(event.id, event);
      if (event.kind === "notes") notes.tell(event.id, event.head);
      if (event.kind === "look") looks.tell(event.id, event.done, event.of);
      for (const key of STALE[event.kind]) stale.add(key);
      timer ??= setTimeout(ask, EVENTS_MS);
    };
    // What happened while the server was away was not told.
    source.onopen = () => {
      void queryClient.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== "answer" });
      prints.tellAll();
      notes.tellAll();
    };
    return () => {
      clearTimeout(timer);
      source.close();
    };
  }, []);
}

/** Address of a print's thumbnail as it is now. */
export const printThumbnail = ({ id, head }: Pick<Print, "id" | "head">, edge: 160 | 320 | 640 | 1280): string =>
  `/api/prints/${id}/thumbnail?edge=${edge}&v=${head}`;
export const negativeThumbnail = (id: string, edge: 160 | 320 | 640 | 1280): string =>
  `/api/negatives/${id}/thumbnail?edge=${edge}`;
