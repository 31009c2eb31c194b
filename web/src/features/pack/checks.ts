/** What a listing usually needs before a stall takes it. Common practice, no source. */
import type { ReadingRow } from "@/ui/Readings";

interface Listing {
  title: string;
  description: string;
  keywords: string[];
  licence: string;
  motifCount: number;
}

const LEAST_KEYWORDS = 5;
const LEAST_DESCRIPTION = 40;

export function listingChecks(listing: Listing): ReadingRow[] {
  const row = (label: string, value: string, ok: boolean, limit?: string): ReadingRow => ({
    label,
    value,
    limit,
    state: ok ? "pass" : "warn",
  });
  return [
    row("Title", `${listing.title.trim().length} letters`, listing.title.trim().length > 0, "≥ 1"),
    row(
      "Description",
      `${listing.description.trim().length} letters`,
      listing.description.trim().length >= LEAST_DESCRIPTION,
      `≥ ${LEAST_DESCRIPTION}`,
    ),
    row(
      "Keywords",
      String(listing.keywords.length),
      listing.keywords.length >= LEAST_KEYWORDS,
      `≥ ${LEAST_KEYWORDS}`,
    ),
    row("Licence", listing.licence.trim() ? "stated" : "missing", listing.licence.trim() !== ""),
    row("Motifs", String(listing.motifCount), listing.motifCount > 0, "≥ 1"),
  ];
}
