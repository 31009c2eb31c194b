/** Changes of a yardstick: kept by the server, and every proof looked at anew. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, ask, type CollectionView, type NamedYardstick, type YardstickBody } from "@/api/client";
import { keys } from "@/api/queries";

export function toBody(named: NamedYardstick): YardstickBody {
  return { name: named.name, ...named.yardstick, limits: { ...named.yardstick.limits } };
}

/** Keep a yardstick of a collection: a new one where it has no id yet. */
export function useKeepYardstick(view: CollectionView, id: number | null) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: YardstickBody) =>
      ask(
        id === null
          ? api.POST("/api/yardsticks", { body })
          : api.PUT("/api/yardsticks/{yardstick_id}", { params: { path: { yardstick_id: id } }, body }),
      ),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: keys.yardsticks });
      await client.invalidateQueries({ queryKey: keys.collection(view.collection.id) });
    },
  });
}
