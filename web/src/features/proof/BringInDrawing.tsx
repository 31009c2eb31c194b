/** A drawing from elsewhere, SVG or DXF, as the motif's drawing. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { sendDrawing, type Motif } from "@/api/client";
import { tellDone, tellProblem } from "@/ui/notices";

export function BringInDrawing({ motif }: { motif: Motif }) {
  const client = useQueryClient();
  const send = useMutation({
    mutationFn: (file: File) => sendDrawing(motif.id, file),
    onSuccess: async ({ not_taken }) => {
      await client.invalidateQueries({ queryKey: ["collection"] });
      await client.invalidateQueries({ queryKey: ["drawing", motif.id] });
      await client.invalidateQueries({ queryKey: ["verdicts"] });
      tellDone(
        not_taken.length ? "Brought in; what was not taken is listed beside it." : "Brought in whole.",
      );
    },
    onError: tellProblem,
  });
  return (
    <label className="link cursor-pointer focus-within:outline-2 focus-within:outline-blue-pencil">
      {send.isPending ? "reading …" : "bring in an SVG or DXF"}
      <input
        type="file"
        aria-label="Drawing file"
        accept=".svg,.svgz,.dxf,image/svg+xml"
        className="sr-only"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) send.mutate(file);
        }}
      />
    </label>
  );
}
