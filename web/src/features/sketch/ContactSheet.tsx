/** All motifs' sketches under each other, only those in sight on the page; the current motif is scrolled to. */
import { useQueries } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { pictureUrl, type CollectionView, type Job, type Motif, type Sketch } from "@/api/client";
import { sketchesQuery, useForecast } from "@/api/queries";
import { goToMotif, goToSketch, goToStage, usePlace } from "@/place";
import { mm, plural } from "@/ui/format";
import { useCompare } from "./compare";
import { FORECAST_TEXT, FORECAST_TONE, verdictWords } from "./forecast";
import { columnsIn, GAP_PX, sheetRows, type SheetRow } from "./rows";

const SIDE_PX = 18;

export function ContactSheet({ view, waiting }: { view: CollectionView; waiting: Job[] }) {
  const motifId = usePlace((place) => place.motifId);
  const scroller = useRef<HTMLDivElement>(null);
  const columns = useColumns(scroller);
  const answers = useQueries({ queries: view.motifs.map((motif) => sketchesQuery(motif.id)) });
  const stamp = answers.map((answer) => answer.dataUpdatedAt).join();
  const rows = useMemo(
    () => sheetRows(view.motifs, new Map(view.motifs.map((m, k) => [m.id, answers[k]?.data ?? []])), columns),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [view.motifs, stamp, columns],
  );
  const sheet = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => rows[index]?.height ?? 0,
    overscan: 3,
  });
  useEffect(() => sheet.measure(), [rows, sheet]);
  useEffect(() => {
    // The motif's heading goes to the top, unless it was a click on one of its cards that chose it.
    const index = rows.findIndex((row) => row.motif.id === motifId);
    const box = scroller.current;
    if (index < 0 || !box) return;
    const top = rows.slice(0, index).reduce((sum, row) => sum + row.height, 0);
    const shown = top - box.scrollTop;
    if (shown < 0 || shown > box.clientHeight * 0.6) box.scrollTo({ top });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [motifId]);
  if (view.motifs.length === 0) {
    return (
      <div ref={scroller} className="grid h-full place-items-center text-pencil">
        <p>
          No motifs yet.{" "}
          <button type="button" className="link" onClick={() => goToStage("brief")}>
            Write subjects in Brief
          </button>{" "}
          and have them drawn, or drop pictures here: each becomes a motif.
        </p>
      </div>
    );
  }
  return (
    <div ref={scroller} className="relative h-full overflow-y-auto pb-6" style={{ paddingInline: SIDE_PX }}>
      <div className="relative" style={{ height: sheet.getTotalSize() }}>
        {sheet.getVirtualItems().map((item) => {
          const row = rows[item.index];
          return (
            row && (
              <div
                key={item.key}
                className="absolute inset-x-0"
                style={{ top: item.start, height: item.size }}
              >
                <Row
                  row={row}
                  view={view}
                  columns={columns}
                  waiting={waiting.filter((job) => job.params.motif_id === row.motif.id)}
                />
              </div>
            )
          );
        })}
      </div>
    </div>
  );
}

function useColumns(box: React.RefObject<HTMLElement | null>): number {
  const [columns, setColumns] = useState(4);
  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const measure = () => setColumns(columnsIn(element.clientWidth - 2 * SIDE_PX));
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, [box]);
  return columns;
}

function Row({
  row,
  view,
  columns,
  waiting,
}: {
  row: SheetRow;
  view: CollectionView;
  columns: number;
  waiting: Job[];
}) {
  const current = usePlace((place) => place.motifId === row.motif.id);
  if (row.kind === "head") return <Head motif={row.motif} current={current} waiting={waiting} />;
  if (row.kind === "empty")
    return (
      <p className="text-pencil">
        {waiting.length > 0 ? "The first sketch is on its way." : "Nothing drawn yet."}{" "}
        {!current && (
          <button type="button" className="link" onClick={() => goToMotif(row.motif.id)}>
            choose this motif
          </button>
        )}
      </p>
    );
  return (
    <section
      aria-label={`Sketches of ${row.motif.name}`}
      className="grid"
      style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`, gap: GAP_PX }}
    >
      {row.sketches.map((sketch) => (
        <SketchCard key={sketch.id} sketch={sketch} view={view} />
      ))}
    </section>
  );
}

function Head({ motif, current, waiting }: { motif: Motif; current: boolean; waiting: Job[] }) {
  const drawing = waiting.find((job) => job.kind === "draw");
  const state = drawing
    ? `drawing ${drawing.message || "…"}`
    : waiting.length
      ? "bringing in …"
      : `${plural(motif.sketch_count, "sketch", "sketches")}, ${motif.kept_count} kept`;
  return (
    <div data-motif={motif.id} className="flex items-baseline gap-3 border-b border-hair pt-3 pb-1">
      <h2 className={`text-xl ${current ? "" : "text-pencil"}`}>{motif.name}</h2>
      <span className="text-pencil">{state}</span>
    </div>
  );
}

function SketchCard({ sketch, view }: { sketch: Sketch; view: CollectionView }) {
  const chosen = usePlace((place) => place.sketchId === sketch.id);
  const compared = useCompare((state) => state.ids.includes(sketch.id));
  const reference = view.brief?.reference_id === sketch.id;
  const forecast = useForecast(sketch, view.yardstick).data;
  const tone = forecast ? (FORECAST_TONE[forecast.verdict] ?? "warn") : null;
  const marks = [reference && "reference", compared && "compared"].filter(Boolean).join(", ");
  return (
    <button
      type="button"
      aria-pressed={chosen}
      aria-label={`Sketch ${sketch.id}${sketch.kept ? ", kept" : ""}${marks && `, ${marks}`}${forecast ? `: ${verdictWords(forecast.verdict)}` : ""}`}
      onClick={() => goToSketch(sketch.motif_id, sketch.id)}
      onDoubleClick={() => goToStage("ink")}
      className={`relative h-[182px] border bg-sheet text-left ${chosen ? "border-graphite outline-2 outline-blue-pencil" : sketch.kept ? "border-graphite" : "border-hair hover:border-graphite"}`}
    >
      {sketch.kept && (
        <svg aria-hidden className="absolute -top-px -left-px z-10" width="26" height="26">
          <path d="M0 0H26L0 26Z" fill="#2F6DB5" />
        </svg>
      )}
      {marks && (
        <span className="absolute top-1 right-1 z-10 border border-blue-pencil bg-sheet px-1 text-[11px] leading-4 text-blue-pencil">
          {marks}
        </span>
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
