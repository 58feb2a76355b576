import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { at, isActive } from "./cache";
import { client, told, uploadArchive } from "./client";

const POLL = 1000;

export function useSites() {
  return useQuery({
    queryKey: ["sites"],
    queryFn: () => told(client.GET("/api/sites")),
    refetchInterval: (query) => (query.state.data?.some((site) => isActive(site.job)) ? POLL : false),
  });
}

/** Where to visit, and which pages beside the first one. */
export type Visited = {
  address: string;
  depth: number;
  pages: number;
  sitemap: boolean;
  listed: string[];
  only: string[];
};

export function useVisit() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: Visited) => told(client.POST("/api/sites/visit", { body })),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["sites"] }),
  });
}

export function useEditSite() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: ({ id, ...body }: { id: string; tags?: string[]; archived?: boolean; name?: string }) =>
      told(client.PATCH("/api/sites/{site_id}", { ...at(id), body })),
    onSettled: () => cache.invalidateQueries({ queryKey: ["sites"] }),
  });
}

export function useDelete() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => told(client.DELETE("/api/sites/{site_id}", at(id))),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["sites"] }),
  });
}

/** A newer copy of a site takes its place; all that was read of it is read again. */
export function useNewer(id: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (file: File) => uploadArchive(file, () => undefined, id),
    onSettled: () => cache.invalidateQueries(),
  });
}
