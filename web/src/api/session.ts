import { type QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Session, told } from "./client";

export function useSession() {
  return useQuery({ queryKey: ["session"], queryFn: () => told(client.GET("/api/session")), staleTime: 60_000 });
}

/** Another person sees nothing of what the last one read. */
function forgetAllBut(cache: QueryClient, session: Session) {
  cache.removeQueries({ predicate: (query) => query.queryKey[0] !== "session" });
  cache.setQueryData(["session"], session);
}

export function useSignIn() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: { username: string; password: string }) => told(client.POST("/api/session", { body })),
    onSuccess: (session: Session) => forgetAllBut(cache, session),
  });
}

export function useSignOut() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: () => told(client.DELETE("/api/session")),
    onSuccess: (session: Session) => forgetAllBut(cache, session),
  });
}
