/** Pictures on their way in: a few at a time, good ones arrive whatever happens to the others. */
import { create } from "zustand";
import { sendPicture } from "@/api/client";
import { tellProblem } from "@/ui/notices";

interface Bringing {
  total: number;
  sent: number;
  refused: { name: string; why: string }[];
}

const NOTHING: Bringing = { total: 0, sent: 0, refused: [] };
const AT_ONCE = 2;

export const useBringing = create<Bringing>(() => NOTHING);
export const forgetRefused = () => useBringing.setState(NOTHING);

type Send = (motifId: number, file: File) => Promise<unknown>;

/** Send files to a motif. One that is refused alone is a notice; of several each says why in a list. */
export async function sendAll(motifId: number, files: File[], send: Send = sendPicture): Promise<void> {
  const busy = useBringing.getState();
  const fresh = busy.sent >= busy.total;
  useBringing.setState(fresh ? { ...NOTHING, total: files.length } : { total: busy.total + files.length });
  const queue = [...files];
  const carry = async () => {
    for (let file = queue.shift(); file; file = queue.shift()) {
      const { name } = file;
      await send(motifId, file).catch((error: Error) => {
        if (files.length === 1) tellProblem(new Error(`${name}: ${error.message}`));
        else useBringing.setState((state) => ({ refused: [...state.refused, { name, why: error.message }] }));
      });
      useBringing.setState((state) => ({ sent: state.sent + 1 }));
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, carry));
}
