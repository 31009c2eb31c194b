import type { Ticket } from "@/api/client";
import { bytes } from "@/ui/format";
import { Readings, type ReadingRow } from "@/ui/Readings";
import { Section } from "@/ui/Section";

/** What a ticket came to: its files and the numbers that matter. */
export function TicketFiles({ ticket, stale }: { ticket: Ticket; stale: boolean }) {
  return (
    <>
      <Section title="Files" aside={<span className="num text-pencil">ticket {ticket.id}</span>}>
        {stale && <p className="mb-1.5 text-ochre-text">Made before the last change.</p>}
        <ul>
          {ticket.files.map((file) => (
            <li key={file.name} className="flex items-baseline justify-between py-0.5">
              <a
                className="link truncate"
                href={`/api/tickets/${ticket.id}/files/${encodeURIComponent(file.name)}`}
                download
              >
                {file.name}
              </a>
              <span className="num text-pencil">{bytes(file.size_bytes)}</span>
            </li>
          ))}
        </ul>
      </Section>
      <Section title="Readings">
        <Readings rows={readingRows(ticket)} />
      </Section>
    </>
  );
}

export function readingRows(ticket: Ticket): ReadingRow[] {
  const readings = ticket.readings as unknown as { label: string; value: number; unit: string }[];
  return readings.map((row) => ({ label: row.label, value: `${figure(row.value)} ${row.unit}`.trim() }));
}

function figure(value: number): string {
  if (Number.isInteger(value)) return String(value);
  return value.toFixed(Math.abs(value) < 10 ? 2 : 1);
}
