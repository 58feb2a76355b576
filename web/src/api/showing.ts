import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { at, ofSite } from "./cache";
import {
  type Answer,
  type AnswerBody,
  client,
  type Letterhead,
  type Limit,
  type ReviewSeen,
  sendFile,
  told,
} from "./client";

const by = (token: string) => ({ params: { path: { token } } });
const seenKey = (token: string) => ["review", token];

export function useReviewSeen(token: string) {
  return useQuery({
    queryKey: seenKey(token),
    queryFn: () => told(client.GET("/api/review/{token}", by(token))),
    retry: false,
  });
}

export function useUnlock(token: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (password: string) =>
      told(client.POST("/api/review/{token}/open", { ...by(token), body: { password } })),
    onSuccess: (seen) => cache.setQueryData(seenKey(token), seen),
  });
}

export function useAnswer(token: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: AnswerBody) => told(client.POST("/api/review/{token}/answers", { ...by(token), body })),
    onSuccess: (answers: Answer[]) =>
      cache.setQueryData(seenKey(token), (old: ReviewSeen | undefined) => old && { ...old, answers }),
  });
}

export function useReviews(id: string) {
  return useQuery({
    queryKey: ofSite(id, "reviews"),
    queryFn: () => told(client.GET("/api/sites/{site_id}/reviews", at(id))),
    refetchInterval: 15_000,
  });
}

export function useMakeReview(id: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationKey: ofSite(id, "make review"),
    mutationFn: (body: { days: number; password: string; name: string }) =>
      told(client.POST("/api/sites/{site_id}/reviews", { ...at(id), body })),
    onSettled: () => cache.invalidateQueries({ queryKey: ofSite(id, "reviews") }),
  });
}

export function useWithdraw(id: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationKey: ofSite(id, "withdraw"),
    mutationFn: (review_id: string) =>
      told(
        client.POST("/api/sites/{site_id}/reviews/{review_id}/withdraw", {
          params: { path: { site_id: id, review_id } },
        }),
      ),
    onSettled: () => cache.invalidateQueries({ queryKey: ofSite(id, "reviews") }),
  });
}

const LETTERHEAD = ["letterhead"];

export function useLetterhead() {
  return useQuery({ queryKey: LETTERHEAD, queryFn: () => told(client.GET("/api/letterhead")) });
}

export function useSetLetterhead() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: Letterhead) => told(client.PUT("/api/letterhead", { body })),
    onSuccess: (body) => cache.setQueryData(LETTERHEAD, body),
  });
}

export function useSetLogo() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (file: File) => sendFile<Letterhead>("/api/letterhead/logo", "logo", file, {}),
    onSuccess: (body) => cache.setQueryData(LETTERHEAD, body),
  });
}

export function useAllowance(id: string, stamp: string) {
  return useQuery({
    queryKey: ofSite(id, "allowance", stamp),
    queryFn: () => told(client.GET("/api/sites/{site_id}/allowance", at(id))),
  });
}

export function useSetAllowance(id: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationKey: ofSite(id, "allowance"),
    mutationFn: (limits: Limit[]) =>
      told(client.PUT("/api/sites/{site_id}/allowance", { ...at(id), body: { limits } })),
    onSettled: () => cache.invalidateQueries({ queryKey: ofSite(id) }),
  });
}

export function useByHand(id: string, run: string) {
  return useQuery({
    queryKey: ofSite(id, "by hand", run),
    queryFn: () => told(client.GET("/api/sites/{site_id}/by-hand", at(id))),
  });
}

export function useTick(id: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationKey: ofSite(id, "tick"),
    mutationFn: ({ key, done }: { key: string; done: boolean }) =>
      told(
        client.PUT("/api/sites/{site_id}/by-hand/{key}", {
          params: { path: { site_id: id, key } },
          body: { done },
        }),
      ),
    onSuccess: (list) => cache.setQueriesData({ queryKey: ofSite(id, "by hand") }, list),
  });
}
