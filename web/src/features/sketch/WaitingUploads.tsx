/** Pictures that were brought in and kept as they came, but have not become sketches: nothing of them is lost. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, type Motif, type Upload } from "@/api/client";
import { isUnderWay, useJobs } from "@/api/events";
import { keys } from "@/api/queries";
import { tellProblem } from "@/ui/notices";
import { Section } from "@/ui/Section";
import { TextButton } from "@/ui/TextButton";

export function WaitingUploads({ motif }: { motif: Motif }) {
  const waiting = useQuery({
    queryKey: keys.uploads(motif.id),
    queryFn: () =>
      ask(api.GET("/api/motifs/{motif_id}/uploads", { params: { path: { motif_id: motif.id } } })),
  }).data;
  const underWay = new Set((useJobs().data ?? []).filter(isUnderWay).map((job) => job.params.upload_id));
  const stranded = (waiting ?? []).filter((upload) => !underWay.has(upload.id));
  if (!stranded.length) return null;
  return (
    <Section title="Brought in, not ready yet">
      <p className="mb-1 text-pencil">Kept as they came; the work on them was interrupted.</p>
      <ul aria-label="Pictures not ready yet">
        {stranded.map((upload) => (
          <Stranded key={upload.id} upload={upload} />
        ))}
      </ul>
    </Section>
  );
}

function Stranded({ upload }: { upload: Upload }) {
  const client = useQueryClient();
  const path = { upload_id: upload.id };
  const stale = () => client.invalidateQueries({ queryKey: keys.uploads(upload.motif_id) });
  const prepare = useMutation({
    mutationFn: () => ask(api.POST("/api/uploads/{upload_id}/prepare", { params: { path } })),
    onError: tellProblem,
    onSettled: stale,
  });
  const forget = useMutation({
    mutationFn: () => ask(api.DELETE("/api/uploads/{upload_id}", { params: { path } })),
    onError: tellProblem,
    onSettled: stale,
  });
  return (
    <li className="border-b border-hair py-1 last:border-b-0">
      <span className="num block truncate" title={upload.file_name}>
        {upload.file_name}
      </span>
      <span className="flex gap-3">
        <TextButton disabled={prepare.isPending} onClick={() => prepare.mutate()}>
          make a sketch of it
        </TextButton>
        <a className="link" href={`/api/uploads/${upload.id}/file`} download={upload.file_name}>
          download
        </a>
        <TextButton className="text-red-pencil" onClick={() => forget.mutate()}>
          let go
        </TextButton>
      </span>
    </li>
  );
}
