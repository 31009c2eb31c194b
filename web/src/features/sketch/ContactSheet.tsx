/** All motifs' sketches under each other; the current motif is scrolled to. Forecasts are read as cards come into sight. */
import { useEffect, useRef, useState } from "react";
import { pictureUrl, type CollectionView, type Job, type Motif, type Sketch } from "@/api/client";
import { useForecast, useSketches } from "@/api/queries";
import { goToMotif, goToSketch, goToStage, usePlace } from "@/place";
import { mm, plural } from "@/ui/format";
import { FORECAST_TEXT, FORECAST_TONE, verdictWords } from "./forecast";

export function ContactSheet({ view, waiting }: { view: CollectionView; waiting: Job[] }) {
  const motifId = usePlace((place) => place.motifId);
  const scroller = useRef<HTMLDivElement>(null);
  useEffect(() => {
    // The motif's heading goes to the top, unless it was a click on one of its cards that chose it.
    const section = scroller.current?.querySelector<HTMLElement>(`[data-motif="${motifId}"]`);
    const box = scroller.current;
    if (!section || !box) return;
    const top = section.offsetTop - box.scrollTop;
    if (top < 0 || top > box.clientHeight * 0.6) box.scrollTo({ top: section.offsetTop });
  }, [motifId]);
  if (view.motifs.length === 0) {
    return (
      <div className="grid h-full place-items-center text-pencil">
        <p>
          No motifs yet.{" "}
          <button type="button" className="link" onClick={() => goToStage("brief")}>
            Write subjects in Brief
          </button>{" "}
          and have them drawn.
        </p>
      </div>
    );
  }
  return (
    <div ref={scroller} className="relative h-full overflow-y-auto px-[18px] pb-6">
      {view.motifs.map((motif) => (
        <MotifSketches
          key={motif.id}
          motif={motif}
          view={view}
          waiting={motif.id === motifId ? waiting : []}
        />
      ))}
    </div>
  );
}

function MotifSketches({ motif, view, waiting }: { motif: Motif; view: CollectionView; waiting: Job[] }) {
  const sketches = useSketches(motif.id).data ?? [];
  const current = usePlace((place) => place.motifId === motif.id);
  const drawing = waiting.find((job) => job.kind === "draw");
  const state = drawing
    ? `drawing ${drawing.message || "…"}`
    : waiting.length
      ? "bringing in …"
      : `${plural(motif.sketch_count, "sketch", "sketches")}, ${motif.kept_count} kept`;
  return (
    <section data-motif={motif.id} aria-label={`Sketches of ${motif.name}`} className="pt-3">
      <div className="mb-3.5 flex items-baseline gap-3 border-b border-hair pb-1">
        <h2 className={`text-xl ${current ? "" : "text-pencil"}`}>{motif.name}</h2>
        <span className="text-pencil">{state}</span>
      </div>
      {sketches.length === 0 && waiting.length === 0 ? (
        <p className="pb-2 text-pencil">
          Nothing drawn yet.{" "}
          {!current && (
            <button type="button" className="link" onClick={() => goToMotif(motif.id)}>
              choose this motif
            </button>
          )}
        </p>
      ) : (
        <div className="grid grid-cols-[repeat(auto-fill,minmax(180px,1fr))] gap-3.5">
          {sketches.map((sketch) => (
            <SketchCard key={sketch.id} sketch={sketch} view={view} />
          ))}
        </div>
      )}
    </section>
  );
}

function SketchCard({ sketch, view }: { sketch: Sketch; view: CollectionView }) {
  const chosen = usePlace((place) => place.sketchId === sketch.id);
  const element = useRef<HTMLButtonElement>(null);
  const seen = useSeen(element);
  const forecast = useForecast(seen ? sketch : null, view.yardstick).data;
  const tone = forecast ? (FORECAST_TONE[forecast.verdict] ?? "warn") : null;
  return (
    <button
      ref={element}
      type="button"
      aria-pressed={chosen}
      aria-label={`Sketch ${sketch.id}${sketch.kept ? ", kept" : ""}${forecast ? `: ${verdictWords(forecast.verdict)}` : ""}`}
      onClick={() => goToSketch(sketch.motif_id, sketch.id)}
      onDoubleClick={() => goToStage("ink")}
      className={`relative border bg-sheet text-left ${chosen ? "border-graphite outline-2 outline-blue-pencil" : sketch.kept ? "border-graphite" : "border-hair hover:border-graphite"}`}
    >
      {sketch.kept && (
        <svg aria-hidden className="absolute -top-px -left-px z-10" width="26" height="26">
          <path d="M0 0H26L0 26Z" fill="#2F6DB5" />
        </svg>
      )}
      <span className="grid h-[134px] place-items-center overflow-hidden">
        <img
          src={pictureUrl(sketch.thumb_sha)}
          alt=""
          loading="lazy"
          className="h-[134px] w-full object-contain on-paper"
        />
      </span>
      <span className="block border-t border-hair px-2.5 py-1.5">
        <b
          className={`block font-[650] first-letter:uppercase ${tone ? FORECAST_TEXT[tone] : "text-pencil"}`}
        >
          {forecast ? verdictWords(forecast.verdict) : "reading …"}
        </b>
        <span className="num flex min-h-4 justify-between text-[11px] leading-4 text-pencil">
          <span>{forecast ? plural(forecast.readings.pieces, "part") : ""}</span>
          <span>
            {forecast?.readings.thinnest_mm != null ? `thin ${mm(forecast.readings.thinnest_mm)}` : ""}
          </span>
        </span>
      </span>
    </button>
  );
}

function useSeen(element: React.RefObject<HTMLElement | null>): boolean {
  const [seen, setSeen] = useState(false);
  useEffect(() => {
    if (!element.current || seen) return;
    const observer = new IntersectionObserver(
      (entries) => entries.some((entry) => entry.isIntersecting) && setSeen(true),
    );
    observer.observe(element.current);
    return () => observer.disconnect();
  }, [element, seen]);
  return seen;
}
