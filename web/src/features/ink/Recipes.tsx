/** Settings with a name: taken up again for one sketch, or used for the whole set. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, type TraceSettings } from "@/api/client";
import { NameForm } from "@/ui/NameForm";
import { tellDone, tellProblem } from "@/ui/notices";
import { Section } from "@/ui/Section";

const KEY = ["recipes"] as const;

interface Props {
  collectionId: number;
  settings: TraceSettings;
  onTake: (settings: TraceSettings) => void;
}

export function Recipes({ collectionId, settings, onTake }: Props) {
  const client = useQueryClient();
  const recipes = useQuery({ queryKey: KEY, queryFn: () => ask(api.GET("/api/recipes")) }).data ?? [];
  const refresh = () => void client.invalidateQueries({ queryKey: KEY });
  const keep = useMutation({
    mutationFn: (name: string) => ask(api.POST("/api/recipes", { body: { name, settings } })),
    onSuccess: refresh,
    onError: tellProblem,
  });
  const forget = useMutation({
    mutationFn: (recipe_id: number) =>
      ask(api.DELETE("/api/recipes/{recipe_id}", { params: { path: { recipe_id } } })),
    onSuccess: refresh,
    onError: tellProblem,
  });
  const traceAll = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/collections/{collection_id}/trace-all", {
          params: { path: { collection_id: collectionId } },
          body: { settings },
        }),
      ),
    onSuccess: (jobs) => tellDone(`Tracing ${jobs.length} motifs with these settings.`),
    onError: tellProblem,
  });
  const current = JSON.stringify(settings);
  return (
    <Section title="Recipes">
      {recipes.length > 0 && (
        <ul className="mb-2">
          {recipes.map((recipe) => (
            <li key={recipe.id} className="flex items-baseline justify-between gap-2 py-0.5">
              <button
                type="button"
                className={`link truncate ${JSON.stringify(recipe.settings) === current ? "font-semibold" : ""}`}
                onClick={() => onTake(recipe.settings as unknown as TraceSettings)}
              >
                {recipe.name}
              </button>
              <button
                type="button"
                className="link text-sm text-pencil"
                aria-label={`Forget ${recipe.name}`}
                onClick={() => forget.mutate(recipe.id)}
              >
                forget
              </button>
            </li>
          ))}
        </ul>
      )}
      <NameForm
        label="Name of the recipe"
        placeholder="name these settings"
        busy={keep.isPending}
        onKeep={(name) => keep.mutateAsync(name)}
      />
      <button
        type="button"
        className="link mt-1.5 text-sm"
        disabled={traceAll.isPending}
        onClick={() => traceAll.mutate()}
      >
        trace the whole set with these settings
      </button>
    </Section>
  );
}
