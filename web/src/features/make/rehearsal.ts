/** What a ticket's rehearsal holds, read from loose values. */
import type { Ticket } from "@/api/client";

export interface Rehearsal {
  seconds: number;
  operations: { name: string; seconds: number }[];
  pageMm: [number, number] | null;
  pictureBoundsMm: [number, number, number, number];
  burnedMm: number;
  travelMm: number;
  engravesFirst: boolean;
  innerFirst: boolean;
  warnings: string[];
}

/** Only laser tickets are rehearsed on a machine so far. */
export function rehearsalOf(ticket: Ticket): Rehearsal | null {
  const raw = ticket.rehearsal as Record<string, unknown>;
  if (typeof raw.seconds !== "number") return null;
  return {
    seconds: raw.seconds,
    operations: raw.operations as Rehearsal["operations"],
    pageMm: (raw.page_mm as [number, number] | null) ?? null,
    pictureBoundsMm: raw.picture_bounds_mm as Rehearsal["pictureBoundsMm"],
    burnedMm: Number(raw.burned_mm),
    travelMm: Number(raw.travel_mm),
    engravesFirst: raw.engraves_first === true,
    innerFirst: raw.inner_first === true,
    warnings: (raw.warnings as string[] | undefined) ?? [],
  };
}

export const previewShaOf = (ticket: Ticket) =>
  String((ticket.rehearsal as Record<string, unknown>).preview_sha ?? "");
