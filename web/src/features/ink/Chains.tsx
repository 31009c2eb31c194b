/** Clean-up steps with a name: used again, or for every kept sketch of the set. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type CleanStep } from "@/api/cleaning";
import { api, ask } from "@/api/client";
import { keys } from "@/api/queries";
import { NameForm } from "@/ui/NameForm";
import { tellDone, tellProblem } from "@/ui/notices";

interface Props {
  collectionId: number;
  steps: CleanStep[];
  onTake: (steps: CleanStep[]) => void;
}

export function Chains({ collectionId, steps, onTake }: Props) {
  const client = useQueryClient();
  const chains = useQuery({ queryKey: keys.chains, queryFn: () => ask(api.GET("/api/chains")) }).data ?? [];
  const [naming, setNaming] = useState(false);
  const refresh = () => void client.invalidateQueries({ queryKey: keys.chains });
  const keep = useMutation({
    mutationFn: (called: string) => ask(api.POST("/api/chains", { body: { name: called, steps } })),
    onSuccess: () => {
      setNaming(false);
      refresh();
    },
    onError: tellProblem,
  });
  const forget = useMutation({
    mutationFn: (chain_id: number) =>
      ask(api.DELETE("/api/chains/{chain_id}", { params: { path: { chain_id } } })),
    onSuccess: refresh,
    onError: tellProblem,
  });
  const all = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/collections/{collection_id}/clean-all", {
          params: { path: { collection_id: collectionId } },
          body: { steps },
        }),
      ),
    onSuccess: () => tellDone("Every kept sketch of the set gets these steps."),
    onError: tellProblem,
  });
  return (
    <div className="mt-2 border-t border-hair pt-1.5">
      {chains.map((chain) => (
        <div key={chain.id} className="flex items-baseline justify-between gap-2 py-0.5">
          <button
            type="button"
            className="link truncate"
            title="Take these steps instead"
            onClick={() => onTake(chain.steps as CleanStep[])}
          >
            {chain.name}
          </button>
          <button
            type="button"
            className="link text-sm"
            aria-label={`Forget the steps ${chain.name}`}
            onClick={() => forget.mutate(chain.id)}
          >
            forget
          </button>
        </div>
      ))}
      {steps.length > 0 &&
        (!naming ? (
          <div className="flex flex-wrap gap-x-4">
            <button type="button" className="link" onClick={() => setNaming(true)}>
              keep these steps
            </button>
            <button type="button" className="link" disabled={all.isPending} onClick={() => all.mutate()}>
              use for the whole set
            </button>
          </div>
        ) : (
          <NameForm
            autoFocus
            label="Name of the steps"
            placeholder="pencil on grey paper"
            busy={keep.isPending}
            onKeep={(name) => keep.mutateAsync(name)}
          />
        ))}
    </div>
  );
}
