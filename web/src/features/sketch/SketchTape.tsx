/** The forecast of the chosen sketch, and how many there are. */
import type { CollectionView, Sketch } from "@/api/client";
import { useForecast } from "@/api/queries";
import { TapeKeys, TapeSegment, Verdict } from "@/ui/Tape";
import { FORECAST_TONE, verdictWords } from "./forecast";

export function SketchTape({
  view,
  sketches,
  chosen,
  kept,
}: {
  view: CollectionView;
  sketches: Sketch[];
  chosen: Sketch | null;
  kept: number;
}) {
  const forecast = useForecast(chosen, view.yardstick).data;
  const tone = forecast
    ? ({ pass: "leaf", warn: "ochre", fail: "red" } as const)[FORECAST_TONE[forecast.verdict] ?? "warn"]
    : "plain";
  return (
    <>
      <Verdict tone={tone}>
        {forecast ? verdictWords(forecast.verdict) : chosen ? "reading …" : "no sketch chosen"}
      </Verdict>
      {forecast?.reasons.map((reason) => (
        <TapeSegment key={reason.kind} red={!reason.note}>
          {reason.words}
        </TapeSegment>
      ))}
      <TapeSegment>
        sketches <span className="num">{sketches.length}</span>
      </TapeSegment>
      <TapeSegment>
        kept <span className="num">{kept}</span>
      </TapeSegment>
      <TapeKeys>
        <span>[ ] motif</span>
        <span>3 Ink</span>
      </TapeKeys>
    </>
  );
}
