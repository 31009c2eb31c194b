/** Pictures on their way in: a few at a time, good ones arrive whatever happens to the others. */
import { create } from "zustand";
import { sendPicture, type Motif } from "@/api/client";
import { tellProblem } from "@/ui/notices";

interface Bringing {
  total: number;
  sent: number;
  refused: { name: string; why: string }[];
  /** Pictures of which it is not said yet whose sketches they become. */
  waiting: File[];
}

const NOTHING: Bringing = { total: 0, sent: 0, refused: [], waiting: [] };
const AT_ONCE = 2;

export const useBringing = create<Bringing>(() => NOTHING);
export const forgetRefused = () => useBringing.setState({ total: 0, sent: 0, refused: [] });
export const letWait = (files: File[]) => useBringing.setState({ waiting: files });

/** One picture for the motif that is looked at needs no question. */
export function needsQuestion(count: number, motif: Motif | null, isOnSketch: boolean): boolean {
  return count > 1 || (motif !== null && !isOnSketch);
}

/** A file and the motif whose sketch it becomes. */
export interface Arrival {
  motifId: number;
  file: File;
}

type Send = (motifId: number, file: File) => Promise<unknown>;

/** Send files to their motifs. One that is refused alone is a notice; of several each says why in a list. */
export async function sendAll(arrivals: Arrival[], send: Send = sendPicture): Promise<void> {
  const busy = useBringing.getState();
  const fresh = busy.sent >= busy.total;
  useBringing.setState(
    fresh ? { total: arrivals.length, sent: 0, refused: [] } : { total: busy.total + arrivals.length },
  );
  const queue = [...arrivals];
  const carry = async () => {
    for (let next = queue.shift(); next; next = queue.shift()) {
      const { name } = next.file;
      await send(next.motifId, next.file).catch((error: Error) => {
        if (arrivals.length === 1) tellProblem(new Error(`${name}: ${error.message}`));
        else useBringing.setState((state) => ({ refused: [...state.refused, { name, why: error.message }] }));
      });
      useBringing.setState((state) => ({ sent: state.sent + 1 }));
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, carry));
}
