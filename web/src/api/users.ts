import { type QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, told } from "./client";
import type { components } from "./schema";

export type User = components["schemas"]["UserOut"];
export type Deed = components["schemas"]["DeedOut"];
type UserIn = components["schemas"]["UserIn"];
type UserEdit = components["schemas"]["UserEdit"];

function noted(cache: QueryClient, users: User[]) {
  cache.setQueryData(["users"], users);
  void cache.invalidateQueries({ queryKey: ["deeds"] });
}

export function useUsers() {
  return useQuery({ queryKey: ["users"], queryFn: () => told(client.GET("/api/users")) });
}

export function useDeeds(who: string) {
  return useQuery({
    queryKey: ["deeds", who],
    queryFn: () => told(client.GET("/api/deeds", { params: { query: { who } } })),
  });
}

export function useAddUser() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: UserIn) => told(client.POST("/api/users", { body })),
    onSuccess: (users: User[]) => noted(cache, users),
  });
}

export function useEditUser(username: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: UserEdit) =>
      told(client.PATCH("/api/users/{username}", { params: { path: { username } }, body })),
    onSuccess: (users: User[]) => noted(cache, users),
  });
}
