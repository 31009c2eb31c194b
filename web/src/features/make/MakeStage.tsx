/** Tickets: what is made of the drawing, on which blank, with which settings; rehearsed before it is run. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import {
  api,
  ask,
  isSound,
  type CollectionView,
  type CurrentDrawing,
  type Motif,
  type Ticket,
} from "@/api/client";
import { isUnderWay, useJobs } from "@/api/events";
import { keys, useDrawing } from "@/api/queries";
import { goToStage } from "@/place";
import { Button } from "@/ui/Button";
import { NumberField } from "@/ui/Field";
import { tellProblem } from "@/ui/notices";
import { Section } from "@/ui/Section";
import { Segments } from "@/ui/Segments";
import { StageFrame } from "@/ui/StageFrame";
import { Verdict } from "@/ui/Tape";
import {
  CHOICES,
  isIdle,
  MAKINGS,
  makingFor,
  NUMBERS,
  startValues,
  type Making,
  type Values,
} from "./settings";
import { MakeTape } from "./MakeTape";
import { TicketFiles } from "./TicketFiles";
import { WorkPreview } from "./WorkPreview";

export function MakeStage({ view, motif }: { view: CollectionView; motif: Motif | null }) {
  const drawing = useDrawing(motif?.id ?? null, motif?.drawing_id != null, view.yardstick).data;
  if (!motif || !drawing || drawing.motif_id !== motif.id) {
    return (
      <StageFrame
        side={<Section title="Ticket">Nothing to make yet.</Section>}
        tape={<Verdict tone="plain">nothing to make</Verdict>}
      >
        <div className="grid h-full place-items-center text-pencil">
          <p>
            {motif ? `${motif.name} has no drawing yet.` : "There is no motif yet."}{" "}
            <button type="button" className="link" onClick={() => goToStage("ink")}>
              Trace a sketch in Ink
            </button>
          </p>
        </div>
      </StageFrame>
    );
  }
  if (!isSound(drawing)) {
    return (
      <StageFrame
        side={<Section title="Ticket">Nothing can be made of it.</Section>}
        tape={<Verdict tone="red">cannot be shown</Verdict>}
      >
        <div className="grid h-full place-items-center">
          <p className="max-w-[52ch] text-red-pencil">
            {drawing.problem}{" "}
            <button type="button" className="link" onClick={() => goToStage("proof")}>
              Go back from it in Proof
            </button>
          </p>
        </div>
      </StageFrame>
    );
  }
  return <Bench key={motif.id} view={view} motif={motif} current={drawing} />;
}

// Settings stay as they are while the maker moves from motif to motif.
const remembered = new Map<string, Values>();
let lastMaking: { yardstickId: number; making: Making } | null = null;

function Bench({ view, motif, current }: { view: CollectionView; motif: Motif; current: CurrentDrawing }) {
  const process = view.yardstick.yardstick.process;
  const usual = lastMaking?.yardstickId === view.yardstick.id ? lastMaking.making : makingFor(process);
  const [making, setMaking] = useState<Making>(usual);
  const [edited, setEdited] = useState<Values | null>(null);
  const [width, setWidth] = useState<number | null>(null);
  const tickets = useQuery({
    queryKey: keys.tickets(motif.id),
    queryFn: () =>
      ask(api.GET("/api/motifs/{motif_id}/tickets", { params: { path: { motif_id: motif.id } } })),
  }).data;
  const ticket = tickets?.find((each) => each.process === making) ?? null;
  const start = { ...startValues(making, process), ...remembered.get(making) };
  const values = edited ?? { ...start, ...(ticket?.settings as Values | undefined) };
  const widthMm = width ?? ticket?.width_mm ?? Number(current.drawing.proof.readings.width_mm.toFixed(1));
  const fresh =
    ticket !== null && ticket.revision_id === current.revision_id && sameOrder(ticket, widthMm, values);
  const make = useMake(motif, making, widthMm, values);

  const change = (next: Values) => {
    remembered.set(making, next);
    setEdited(next);
  };
  const chooseMaking = (next: Making) => {
    lastMaking = { yardstickId: view.yardstick.id, making: next };
    setMaking(next);
    setEdited(null);
    setWidth(null);
  };

  return (
    <StageFrame
      side={
        <>
          <Section title="Ticket">
            <Segments label="Process" value={making} segments={MAKINGS} onChange={chooseMaking} />
            <div className="mt-2.5">
              <NumberField label="Finished width" unit="mm" value={widthMm} onDone={setWidth} />
              {CHOICES[making].map((choice) => (
                <div key={choice.key} className="my-1.5">
                  <span className="mb-0.5 block">{choice.label}</span>
                  <Segments
                    label={choice.label}
                    value={String(values[choice.key])}
                    segments={choice.choices}
                    onChange={(value) => change({ ...values, [choice.key]: value })}
                  />
                </div>
              ))}
              {NUMBERS[making]
                .filter((setting) => !isIdle(making, setting.key, values))
                .map((setting) => (
                  <NumberField
                    key={setting.key}
                    label={setting.label}
                    unit={setting.unit}
                    value={Number(values[setting.key])}
                    onDone={(value) => change({ ...values, [setting.key]: value })}
                  />
                ))}
            </div>
            <Button kind="ink" className="mt-2.5" disabled={make.isPending || fresh} onClick={make.mutate}>
              {make.isPending
                ? "Working …"
                : making === "laser"
                  ? "Rehearse and write files"
                  : "Write the files"}
            </Button>
          </Section>
          {ticket && <TicketFiles ticket={ticket} stale={!fresh} />}
        </>
      }
      tape={
        <MakeTape
          ticket={ticket}
          fresh={fresh}
          working={make.isPending}
          findings={current.drawing.proof.findings.length}
        />
      }
    >
      <WorkPreview
        view={view}
        motif={motif}
        current={current}
        making={making}
        widthMm={widthMm}
        values={values}
        ticket={fresh ? ticket : null}
      />
    </StageFrame>
  );
}

function sameOrder(ticket: Ticket, widthMm: number, values: Values): boolean {
  if (Math.abs(ticket.width_mm - widthMm) > 0.05) return false;
  return Object.entries(ticket.settings as Values).every(
    ([key, value]) => !(key in values) || values[key] === value,
  );
}

function useMake(motif: Motif, process: Making, width_mm: number, settings: Values) {
  const jobs = useJobs().data ?? [];
  const busy = jobs.some((job) => isUnderWay(job) && job.kind === "make" && job.params.motif_id === motif.id);
  const make = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/motifs/{motif_id}/tickets", {
          params: { path: { motif_id: motif.id } },
          body: { process, width_mm, settings },
        }),
      ),
    onError: tellProblem,
  });
  return { mutate: () => make.mutate(), isPending: make.isPending || busy };
}
