/** Places of the ground's colour that the figure encloses, as dots on the sheet: full if kept, hollow if open. */
import type { TracePreview } from "@/api/client";
import { toBlank, type Placing } from "@/sheet/placing";
import { apply, type View } from "@/sheet/view";
import { turned, type Place } from "./insidePlaces";

interface Props {
  places: TracePreview["inside"];
  placing: Placing;
  view: View;
  turnedPlaces: Place[];
  onTurn: (places: Place[]) => void;
}

/** More dots than this hide what they stand for. */
const MOST_DOTS = 200;

export function InsideMarks({ places, placing, view, turnedPlaces, onTurn }: Props) {
  return (
    <g stroke="#2f6db5" strokeWidth="1.6">
      {[...places]
        .sort((one, other) => other.area_px2 - one.area_px2)
        .slice(0, MOST_DOTS)
        .map((place) => {
          const at = apply(view, toBlank(placing, { x: place.x_px, y: place.y_px }));
          const turn = () => onTurn(turned(turnedPlaces, place));
          return (
            <circle
              key={`${place.x_px} ${place.y_px}`}
              role="button"
              tabIndex={0}
              aria-label={place.kept ? "Place inside, kept: leave it open" : "Place inside, open: keep it"}
              cx={at.x}
              cy={at.y}
              r={5}
              fill={place.kept ? "#2f6db5" : "#fffdf8"}
              style={{ pointerEvents: "auto", cursor: "pointer" }}
              onPointerDown={(event) => event.stopPropagation()}
              onClick={turn}
              onKeyDown={(event) => {
                if (event.key !== "Enter" && event.key !== " ") return;
                event.preventDefault();
                event.stopPropagation();
                turn();
              }}
            />
          );
        })}
    </g>
  );
}
