/** The mend of a figure wider than its blank: the yardstick's width becomes the blank's, for the whole set. */
import type { CollectionView } from "@/api/client";
import { mm } from "@/ui/format";
import { tellDone, tellProblem } from "@/ui/notices";
import { toBody, useKeepYardstick } from "../yardstick/changes";

export interface FitWidth {
  widthMm: number;
  busy: boolean;
  apply: () => void;
}

export function useFitWidth(view: CollectionView): FitWidth {
  const { id, yardstick } = view.yardstick;
  const keep = useKeepYardstick(view, id);
  const widthMm = yardstick.blank_width_mm;
  return {
    widthMm,
    busy: keep.isPending,
    apply: () =>
      keep.mutate(
        { ...toBody(view.yardstick), width_mm: widthMm },
        {
          onSuccess: () =>
            tellDone(`The yardstick is ${mm(widthMm)} wide now, ${mm(yardstick.width_mm)} before.`),
          onError: tellProblem,
        },
      ),
  };
}
