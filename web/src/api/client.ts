/** The one way to the server: typed by its own description, errors as sentences. */
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type BriefBody = Required<Schemas["BriefBody"]>;
export type Chain = Schemas["Chain"];
export type Collection = Schemas["Collection"];
export type CollectionView = Schemas["CollectionView"];
/** A drawing as it is kept; one that cannot be read or judged has no `drawing`, and a `problem`. */
export type KeptDrawing = Schemas["CurrentDrawing"];
export type CurrentDrawing = KeptDrawing & { drawing: Schemas["DrawingData"] };
export type DoneLine = Schemas["DoneLine"];
export type How = Schemas["How"];
export type MendPreview = Schemas["MendPreview"];
export type Doubt = Schemas["Doubt"];
export type DemandRow = Schemas["DemandRow"];
export type DrawingData = Schemas["DrawingData"];
export type Finding = Schemas["Finding"];
export type ForeignDrawing = Schemas["ForeignDrawing"];
export type Forecast = Schemas["ForecastData"];
export type Job = Schemas["Job"];
export type GeneratorBody = Required<Schemas["GeneratorBody"]>;
export type KeptBrief = Schemas["KeptBrief"];
export type LadderEnd = Schemas["LadderEnd"];
export type Look = Schemas["Look"];
export type Operation = Schemas["EditBody"]["operation"];
export type LetterOperation = Schemas["Letter"];
export type MotifVerdict = Schemas["Verdict"];
export type Motif = Schemas["Motif"];
export type NamedYardstick = Schemas["NamedYardstick"];
export type Pack = Schemas["Pack"];
export type PreviewPart = Schemas["PreviewPart"];
export type Process = Schemas["Process"];
export type RungPart = Schemas["RungPart"];
export type Scene = Schemas["Scene"];
export type ShapeData = Schemas["ShapeData"];
export type Sketch = Schemas["Sketch"];
export type SolidPart = Schemas["SolidPart"];
export type SubjectWording = Schemas["SubjectWording"];
export type Ticket = Schemas["Ticket"];
export type TracePreview = Schemas["TracePreview"];
export type TraceSettings = Required<Schemas["TraceBody"]>;
export type Upload = Schemas["Upload"];
export type VeilData = Schemas["VeilData"];
export type VeilPoint = Schemas["VeilPoint"];
export type YardstickBody = Schemas["YardstickBody"];

export const isSound = (kept: KeptDrawing): kept is CurrentDrawing => kept.drawing !== null;

export const api = createClient<paths>({ baseUrl: "" });

/** What the server said no to, in a sentence that can be shown as it is. */
export class Problem extends Error {
  constructor(
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** Return the data of an answer, or throw its Problem. */
export async function ask<T>(answer: Promise<Answer<T>>): Promise<T> {
  let reply: Answer<T>;
  try {
    reply = await answer;
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new Problem(
      "offline",
      "The app does not answer. Is it still running? Start it again with make demo.",
    );
  }
  if (!reply.response.ok) throw toProblem(reply.error, reply.response.status);
  return reply.data as T;
}

function toProblem(body: unknown, status: number): Problem {
  if (body && typeof body === "object" && "code" in body && "message" in body) {
    return new Problem(String(body.code), String(body.message));
  }
  return new Problem("http", `The app answered with status ${status}. Try again.`);
}

/** Send a file as it is; the server reads it whole before it keeps anything. */
async function sendFile<T>(path: string, file: File): Promise<T> {
  const response = await fetch(`${path}?name=${encodeURIComponent(file.name || "pasted")}`, {
    method: "POST",
    headers: { "Content-Type": "application/octet-stream" },
    body: file,
  }).catch(() => null);
  if (!response) throw new Problem("offline", "The file could not be sent: the app does not answer.");
  const body: unknown = await response.json().catch(() => null);
  if (!response.ok) throw toProblem(body, response.status);
  return body as T;
}

export const sendPicture = (motifId: number, file: File) =>
  sendFile<Job>(`/api/motifs/${motifId}/import`, file);

export const sendDrawing = (motifId: number, file: File) =>
  sendFile<ForeignDrawing>(`/api/motifs/${motifId}/import-drawing`, file);

export const sendCollection = (file: File) => sendFile<Collection>("/api/collections/take-in", file);

export const pictureUrl = (sha: string) => `/api/pictures/${sha}.png`;
