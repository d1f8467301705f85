import { QueryClient, useMutation, useQuery } from "@tanstack/react-query";
import type { ExportJob, ExportOptions, Negative, Print, Roll, ServerEvent } from "@yelm/core";
import { useEffect } from "react";
import { api, ApiError } from "./api.ts";

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
export const useNegatives = (rollId: string | undefined) =>
  useQuery({
    queryKey: ["negatives", { rollId }],
    queryFn: () => api<Negative[]>(`/negatives?roll=${rollId}`),
    enabled: rollId !== undefined,
  });
export const negativeQuery = (id: string) => ({
  queryKey: ["negatives", id],
  queryFn: () => api<Negative>(`/negatives/${id}`),
});
export const useNegative = (id: string) => useQuery(negativeQuery(id));
export const usePrintsOfRoll = (rollId: string | undefined) =>
  useQuery({
    queryKey: ["prints", { rollId }],
    queryFn: () => api<Print[]>(`/prints?roll=${rollId}`),
    enabled: rollId !== undefined,
  });
export const usePrintsOfNegative = (negativeId: string | undefined) =>
  useQuery({
    queryKey: ["prints", { negativeId }],
    queryFn: () => api<Print[]>(`/prints?negative=${negativeId}`),
    enabled: negativeId !== undefined,
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

/** Keeps what is shown in step with the server. */
export function useServerEvents(): void {
  useEffect(() => {
    const source = new EventSource("/api/events");
    source.onmessage = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as ServerEvent;
      if (event.kind === "export") void queryClient.invalidateQueries({ queryKey: ["exports"] });
      if (event.kind === "prints") void queryClient.invalidateQueries({ queryKey: ["prints"] });
      if (event.kind === "negatives") {
        void queryClient.invalidateQueries({ queryKey: ["negatives"] });
        void queryClient.invalidateQueries({ queryKey: ["prints"] });
        void queryClient.invalidateQueries({ queryKey: ["rolls"] });
      }
    };
    return () => source.close();
  }, []);
}

/** Address of a print's thumbnail as it is now. */
export const printThumbnail = ({ id, head }: Pick<Print, "id" | "head">, edge: 160 | 320 | 640 | 1280): string =>
  `/api/prints/${id}/thumbnail?edge=${edge}&v=${head}`;
export const negativeThumbnail = (id: string, edge: 160 | 320 | 640 | 1280): string =>
  `/api/negatives/${id}/thumbnail?edge=${edge}`;
