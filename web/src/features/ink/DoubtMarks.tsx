/** Places that will not trace well, marked before the maker loses time on them. */
import { useQuery } from "@tanstack/react-query";
import { api, ask, type Doubt } from "@/api/client";
import type { SeenSketch } from "@/api/queries";
import { toBlank, type Placing } from "@/sheet/placing";
import { apply, type View } from "@/sheet/view";

export const DOUBT_WORDS: Record<Doubt["kind"], string> = {
  lettering: "small lettering",
  texture: "texture",
  gradient: "gradient",
};

export function useDoubts(sketch: SeenSketch | null) {
  return useQuery({
    queryKey: ["doubts", sketch?.id, sketch?.picture_sha],
    queryFn: () =>
      ask(api.GET("/api/sketches/{sketch_id}/doubts", { params: { path: { sketch_id: sketch?.id ?? 0 } } })),
    enabled: sketch !== null,
    staleTime: Infinity,
  }).data;
}

export function DoubtMarks({ doubts, placing, view }: { doubts: Doubt[]; placing: Placing; view: View }) {
  return (
    <g fill="none" stroke="#8a8272" strokeDasharray="5 4" strokeWidth="1.3">
      {doubts.map((doubt) => {
        const from = apply(view, toBlank(placing, { x: doubt.x_min, y: doubt.y_min }));
        const to = apply(view, toBlank(placing, { x: doubt.x_max, y: doubt.y_max }));
        return (
          <g key={`${doubt.kind}-${doubt.x_min}-${doubt.y_min}`}>
            <rect x={from.x} y={from.y} width={to.x - from.x} height={to.y - from.y} />
            <text
              x={from.x + 3}
              y={from.y - 4}
              fill="#6b6455"
              stroke="none"
              fontSize="11"
              fontFamily="IBM Plex Mono"
            >
              {DOUBT_WORDS[doubt.kind]}
            </text>
          </g>
        );
      })}
    </g>
  );
}
