/** The forecast of the chosen sketch, and how many there are. */
import type { CollectionView, Sketch } from "@/api/client";
import { useForecast } from "@/api/queries";
import { plural } from "@/ui/format";
import { TapeKeys, TapeSegment, Verdict } from "@/ui/Tape";
import { FORECAST_TONE } from "./forecast";

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
  const forecast = useForecast(chosen?.id ?? null, view.yardstick).data;
  const tone = forecast
    ? ({ pass: "leaf", warn: "ochre", fail: "red" } as const)[FORECAST_TONE[forecast.verdict] ?? "warn"]
    : "plain";
  return (
    <>
      <Verdict tone={tone}>{forecast?.verdict ?? "no sketch chosen"}</Verdict>
      {forecast && forecast.thin_count > 0 && (
        <TapeSegment red>
          thin parts <span className="num text-red-pencil">{forecast.thin_count}</span>
        </TapeSegment>
      )}
      {forecast && forecast.speck_count > 0 && (
        <TapeSegment red>
          specks <span className="num text-red-pencil">{forecast.speck_count}</span>
        </TapeSegment>
      )}
      <TapeSegment>
        sketches <span className="num">{sketches.length}</span>
      </TapeSegment>
      <TapeSegment>
        kept <span className="num">{kept}</span>
      </TapeSegment>
      {forecast && (
        <TapeSegment>
          about <span className="num">{plural(forecast.nodes, "node")}</span>
        </TapeSegment>
      )}
      <TapeKeys>
        <span>[ ] motif</span>
        <span>3 Ink</span>
      </TapeKeys>
    </>
  );
}
