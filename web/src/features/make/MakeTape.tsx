/** The verdict on a ticket: made or not, in which order it runs, how long it takes. */
import type { Ticket } from "@/api/client";
import { goToStage } from "@/place";
import { duration } from "@/ui/format";
import { TapeSegment, Verdict } from "@/ui/Tape";
import { rehearsalOf } from "./rehearsal";
import { readingRows } from "./TicketFiles";

export function MakeTape({
  ticket,
  fresh,
  working,
  findings,
}: {
  ticket: Ticket | null;
  fresh: boolean;
  working: boolean;
  findings: number;
}) {
  const rehearsal = ticket && fresh ? rehearsalOf(ticket) : null;
  const verdict = working
    ? "working …"
    : !ticket
      ? "not made yet"
      : !fresh
        ? "made before"
        : findings > 0 || rehearsal?.warnings.length
          ? "look again"
          : "ready to run";
  return (
    <>
      <Verdict tone={verdict === "ready to run" ? "leaf" : verdict === "look again" ? "red" : "plain"}>
        {verdict}
      </Verdict>
      {findings > 0 && (
        <TapeSegment red onClick={() => goToStage("proof")}>
          to mend first <span className="num text-red-pencil">{findings}</span>
        </TapeSegment>
      )}
      {rehearsal?.warnings.map((warning) => (
        <TapeSegment key={warning} red>
          {warning}
        </TapeSegment>
      ))}
      {rehearsal && (
        <>
          {rehearsal.operations.some((operation) => operation.name === "cut") ? (
            <>
              <Check words="engrave before cut" ok={rehearsal.engravesFirst} />
              <Check words="inner before outer" ok={rehearsal.innerFirst} />
            </>
          ) : (
            <TapeSegment>engraving only</TapeSegment>
          )}
          <TapeSegment>
            <span className="num">{duration(rehearsal.seconds)}</span>
          </TapeSegment>
          <TapeSegment>
            burned <span className="num">{(rehearsal.burnedMm / 1000).toFixed(1)} m</span>
          </TapeSegment>
        </>
      )}
      {ticket &&
        fresh &&
        !rehearsal &&
        tapeReadings(ticket).map(({ label, value }) => (
          <TapeSegment key={label}>
            {label} <span className="num">{value}</span>
          </TapeSegment>
        ))}
      {ticket && !fresh && !working && (
        <TapeSegment>drawing or settings have changed since; make it again</TapeSegment>
      )}
    </>
  );
}

const ON_TAPE = [
  "Mass, printed solid",
  "Layers",
  "Colour changes",
  "Resolution",
  "Figure width",
  "Outlines",
  "Inked share",
];

/** The few readings of a ticket that the tape has room for. */
function tapeReadings(ticket: Ticket) {
  return readingRows(ticket)
    .filter((row) => ON_TAPE.includes(row.label))
    .map((row) => ({ ...row, label: row.label.toLowerCase() }));
}

function Check({ words, ok }: { words: string; ok: boolean }) {
  return (
    <TapeSegment red={!ok}>
      {words} <span className={ok ? "text-leaf" : "text-red-pencil"}>{ok ? "✓" : "✗"}</span>
    </TapeSegment>
  );
}
