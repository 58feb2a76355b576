import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { at, ofSite } from "./cache";
import { client, told, type WalkOrders, type WatchOrder } from "./client";

const ofWeighIn = (site_id: string, weigh_in_id: string) => ({ params: { path: { site_id, weigh_in_id } } });

/** All of one weigh-in; `stamp` changes when what is said of it may have changed. */
export function useDetail(id: string, weighIn: string | undefined, stamp: string) {
  return useQuery({
    queryKey: ["weigh-in", id, weighIn, stamp],
    queryFn: () => told(client.GET("/api/sites/{site_id}/weigh-ins/{weigh_in_id}", ofWeighIn(id, weighIn ?? ""))),
    enabled: weighIn !== undefined,
    staleTime: Infinity,
  });
}

export function useHeaders(id: string, weighIn: string, position: number | null) {
  return useQuery({
    queryKey: ["headers", id, weighIn, position],
    queryFn: () =>
      told(
        client.GET("/api/sites/{site_id}/weigh-ins/{weigh_in_id}/requests/{position}", {
          params: { path: { site_id: id, weigh_in_id: weighIn, position: position ?? 0 } },
        }),
      ),
    enabled: position !== null,
    staleTime: Infinity,
  });
}

export function useHistory(id: string, page: string) {
  return useQuery({
    queryKey: ofSite(id, "history", page),
    queryFn: () =>
      told(client.GET("/api/sites/{site_id}/history", { params: { path: { site_id: id }, query: { page } } })),
    enabled: page !== "",
  });
}

export function useComparison(id: string, before: string | undefined, after: string | undefined) {
  return useQuery({
    queryKey: ["comparison", id, before, after],
    queryFn: () =>
      told(
        client.GET("/api/sites/{site_id}/compare", {
          params: { path: { site_id: id }, query: { before: before ?? "", after: after ?? "" } },
        }),
      ),
    enabled: Boolean(before && after),
  });
}

export function useEditWeighIn(id: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationKey: ofSite(id, "weigh-in"),
    mutationFn: ({ key, ...body }: { key: string; name?: string; pinned?: boolean }) =>
      told(client.PATCH("/api/sites/{site_id}/weigh-ins/{weigh_in_id}", { ...ofWeighIn(id, key), body })),
    onSettled: () => cache.invalidateQueries({ queryKey: ofSite(id) }),
  });
}

export function useDeleteWeighIn(id: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationKey: ofSite(id, "delete weigh-in"),
    mutationFn: (key: string) =>
      told(client.DELETE("/api/sites/{site_id}/weigh-ins/{weigh_in_id}", ofWeighIn(id, key))),
    onSettled: () => cache.invalidateQueries({ queryKey: ofSite(id) }),
  });
}

export function useUseMap(id: string) {
  return useQuery({
    queryKey: ofSite(id, "use"),
    queryFn: () => told(client.GET("/api/sites/{site_id}/use", at(id))),
  });
}

export function useUsedText(id: string, url: string | null, page: string, stamp: string) {
  return useQuery({
    queryKey: ["used text", id, url, page, stamp],
    queryFn: () =>
      told(
        client.GET("/api/sites/{site_id}/use/text", {
          params: { path: { site_id: id }, query: { url: url ?? "", page } },
        }),
      ),
    enabled: url !== null,
    staleTime: Infinity,
  });
}

export function useWalkOrders(id: string, page: string) {
  return useQuery({
    queryKey: ["walk orders", id, page],
    queryFn: () =>
      told(client.GET("/api/sites/{site_id}/walk", { params: { path: { site_id: id }, query: { page } } })),
    enabled: page !== "",
  });
}

/** One after the other, and each on top of what was said before it, however soon it follows. */
export function useOrderWalk(id: string, page: string) {
  const cache = useQueryClient();
  const key = ["walk orders", id, page];
  return useMutation({
    scope: { id: key.join(" ") },
    mutationFn: (body: WalkOrders) => told(client.PUT("/api/sites/{site_id}/walk", { ...at(id), body })),
    onMutate: (body) => {
      cache.setQueryData(key, body);
    },
    onError: () => cache.invalidateQueries({ queryKey: key }),
  });
}

export function useWatch(id: string, stamp: string) {
  return useQuery({
    queryKey: ofSite(id, "watch", stamp),
    queryFn: () => told(client.GET("/api/sites/{site_id}/watch", at(id))),
  });
}

export function useSetWatch(id: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: WatchOrder) => told(client.PUT("/api/sites/{site_id}/watch", { ...at(id), body })),
    onSuccess: (watch) => cache.setQueriesData({ queryKey: ofSite(id, "watch") }, watch),
  });
}
