/** Where a sketch came from: its wording and family, who made it, what may be done with it. */
import { pictureUrl, type Sketch } from "@/api/client";
import { goToSketch } from "@/place";
import { Section } from "@/ui/Section";
import { Tick } from "@/ui/Tick";
import { useOrigin } from "./actions";
import { familyOf, stepWords } from "./family";

export function Origin({ sketch, sketches }: { sketch: Sketch; sketches: Sketch[] }) {
  const origin = useOrigin();
  const tell = (change: { machine_made?: boolean; licence?: string }) =>
    origin.mutate({ sketch, machine_made: sketch.machine_made, licence: sketch.licence, ...change });
  return (
    <Section title="How it came about">
      <Family sketch={sketch} sketches={sketches} />
      {sketch.source === "generator" ? (
        <>
          <p>{sketch.wording}</p>
          <p className="num mt-1.5 text-pencil">
            {sketch.generator}, seed {sketch.seed}, {day(sketch)}
          </p>
        </>
      ) : (
        <>
          <p>
            Brought in as <span className="num">{sketch.file_name}</span>, {day(sketch)}
          </p>
          <Tick checked={sketch.machine_made} onChange={(machine_made) => tell({ machine_made })}>
            A picture generator made it
          </Tick>
        </>
      )}
      <label className="mt-1.5 block text-pencil">
        Rights
        <textarea
          key={`${sketch.id}/${sketch.licence}`}
          rows={2}
          maxLength={500}
          aria-label="Note on rights"
          defaultValue={sketch.licence}
          placeholder="Drawn by me; or: licence and where it was got"
          onBlur={(event) => event.target.value !== sketch.licence && tell({ licence: event.target.value })}
          className="w-full resize-none rounded border border-hair bg-sheet px-2 py-1 text-graphite hover:border-graphite"
        />
      </label>
    </Section>
  );
}

/** Ancestors and children as a small tree; a click goes there. */
function Family({ sketch, sketches }: { sketch: Sketch; sketches: Sketch[] }) {
  const kin = familyOf(sketch, sketches);
  if (kin.length < 2) return null;
  return (
    <ol aria-label="Family" className="mb-2">
      {kin.map(({ sketch: each, depth }) => (
        <li key={each.id} style={{ paddingLeft: depth * 14 }}>
          <button
            type="button"
            aria-current={each.id === sketch.id ? "true" : undefined}
            onClick={() => goToSketch(each.motif_id, each.id)}
            className="flex items-center gap-2 py-0.5 hover:text-blue-pencil"
          >
            {depth > 0 && <span aria-hidden className="h-3 w-2 border-b border-l border-pencil" />}
            <img
              src={pictureUrl(each.thumb_sha)}
              alt=""
              className={`on-paper size-8 border object-contain ${each.id === sketch.id ? "border-blue-pencil" : "border-hair"}`}
            />
            <span className={`num ${each.id === sketch.id ? "font-semibold" : "text-pencil"}`}>
              no. {each.id}
            </span>
            <span className="text-pencil">{stepWords(each)}</span>
          </button>
        </li>
      ))}
    </ol>
  );
}

const day = (sketch: Sketch) => new Date(`${sketch.created_at}Z`).toLocaleDateString();
