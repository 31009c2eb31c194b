/** Briefs that pictures were drawn from: open one, change a word, run it again. */
import { useQuery } from "@tanstack/react-query";
import { api, ask, type KeptBrief } from "@/api/client";
import { keys } from "@/api/queries";
import { LOOKS } from "@/api/looks";
import { Button } from "@/ui/Button";
import { plural } from "@/ui/format";
import { Panel } from "@/ui/Panel";
import { lineKey } from "./lines";

interface Props {
  collectionId: number;
  open: boolean;
  onClose: () => void;
  onTake: (brief: KeptBrief["brief"]) => void;
}

export function EarlierBriefs({ collectionId, open, onClose, onTake }: Props) {
  const found = useQuery({
    queryKey: keys.briefs(collectionId),
    queryFn: () =>
      ask(
        api.GET("/api/collections/{collection_id}/briefs", {
          params: { path: { collection_id: collectionId } },
        }),
      ),
    enabled: open,
    staleTime: 0,
  });
  return (
    <Panel open={open} onClose={onClose} title="Earlier briefs" width={560}>
      {found.data?.length === 0 && (
        <p className="text-pencil">None yet: a brief is kept when sketches are drawn from it.</p>
      )}
      <ul>
        {found.data?.map((each) => (
          <li key={each.id} className="flex items-center gap-4 border-t border-hair py-2">
            <div className="min-w-0 grow">
              <p className="num text-pencil">{new Date(`${each.run_at}Z`).toLocaleString()}</p>
              <p className="truncate">{summary(each.brief)}</p>
            </div>
            <Button onClick={() => onTake(each.brief)}>Open</Button>
          </li>
        ))}
      </ul>
    </Panel>
  );
}

function summary(brief: KeptBrief["brief"]): string {
  const subjects = brief.subjects.split("\n").map(lineKey).filter(Boolean);
  const look = LOOKS.find((each) => each.value === brief.look)?.label.toLowerCase() ?? brief.look;
  return `${look}, ${plural(subjects.length, "subject")}: ${subjects.join(", ")}`;
}
