/** What the maker has set up. So far: who draws the pictures. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, ask, type GeneratorBody } from "@/api/client";
import { keys } from "@/api/queries";
import { Button } from "@/ui/Button";
import { NumberField, TextField } from "@/ui/Field";
import { Knob } from "@/ui/Knob";
import { tellDone, tellProblem } from "@/ui/notices";
import { Panel } from "@/ui/Panel";
import { Segments } from "@/ui/Segments";
import { Tick } from "@/ui/Tick";
import { staysHere } from "./address";

const KINDS = [
  { value: "studio", label: "The stand-in studio" },
  { value: "http", label: "A generator at an address" },
] as const;

export function WorkshopPanel({ open, onClose }: { open: boolean; onClose: () => void }) {
  const client = useQueryClient();
  const kept = useQuery({
    queryKey: keys.generator,
    queryFn: () => ask(api.GET("/api/workshop/generator")),
  }).data;
  const [draft, setDraft] = useState<GeneratorBody | null>(null);
  useEffect(() => {
    if (open) setDraft(null);
  }, [open]);
  const save = useMutation({
    mutationFn: (body: GeneratorBody) => ask(api.PUT("/api/workshop/generator", { body })),
    onSuccess: (value) => {
      client.setQueryData(keys.generator, value);
      tellDone("The workshop is as you set it up.");
      onClose();
    },
    onError: tellProblem,
  });
  const shown = draft ?? (kept as GeneratorBody | undefined);
  const put = (change: Partial<GeneratorBody>) => shown && setDraft({ ...shown, ...change });
  return (
    <Panel open={open} onClose={onClose} title="Workshop" width={480}>
      {shown && (
        <>
          <h3 className="mb-1.5 text-lg">Who draws the pictures</h3>
          <Segments
            label="Picture generator"
            value={shown.kind}
            segments={[...KINDS]}
            onChange={(kind) => put({ kind })}
          />
          <div className="mt-3">
            {shown.kind === "studio" ? (
              <StudioKnob value={shown.faults} onChange={(faults) => put({ faults })} />
            ) : (
              <AddressFields value={shown} onChange={put} />
            )}
          </div>
          <div className="mt-4 flex gap-2">
            <Button kind="ink" disabled={!draft || save.isPending} onClick={() => save.mutate(shown)}>
              Set it up so
            </Button>
            <Button onClick={onClose}>Leave it</Button>
          </div>
        </>
      )}
    </Panel>
  );
}

function StudioKnob({ value, onChange }: { value: number; onChange: (value: number) => void }) {
  const words = value === 0 ? "never" : value === 1 ? "as usual" : `${value.toFixed(1)} times as often`;
  return (
    <>
      <p className="mb-2 text-pencil">
        Draws garden, kitchen and weather things without any network. Like real generators it makes mistakes:
        shadows, specks, a scribble in the corner.
      </p>
      <Knob
        label="Mistakes happen"
        reading={words}
        value={value}
        min={0}
        max={3}
        step={0.1}
        onChange={onChange}
      />
    </>
  );
}

function AddressFields({
  value,
  onChange,
}: {
  value: GeneratorBody;
  onChange: (change: Partial<GeneratorBody>) => void;
}) {
  return (
    <div className="flex flex-col gap-2">
      <p className="text-pencil">
        A program that takes JSON (prompt, size, n, seed) and answers with{" "}
        <span className="num">{'{"images": […]}'}</span>, PNGs as base64 or as addresses on the same host. It
        is asked only after you agree; one that is not on this machine only if you allow that, over plain http
        only within the house.
      </p>
      <TextField
        label="Address"
        value={value.address}
        placeholder="http://127.0.0.1:7000/draw"
        onChange={(event) => onChange({ address: event.target.value, outside_confirmed: false })}
      />
      {!staysHere(value.address) && (
        <Tick
          checked={value.outside_confirmed}
          onChange={(outside_confirmed) => onChange({ outside_confirmed })}
        >
          The wording of my briefs may leave this machine
        </Tick>
      )}
      <TextField
        label="Name, kept with each sketch"
        value={value.name}
        onChange={(event) => onChange({ name: event.target.value })}
      />
      <TextField
        label="Note on rights, kept with each sketch"
        value={value.licence}
        onChange={(event) => onChange({ licence: event.target.value })}
      />
      <div>
        <NumberField
          label="Wait for an answer"
          unit="s"
          value={value.timeout_s}
          onDone={(timeout_s) => onChange({ timeout_s })}
        />
        <NumberField
          label="Ask again when it is busy"
          unit="times"
          value={value.tries - 1}
          onDone={(again) => onChange({ tries: Math.round(again) + 1 })}
        />
        <Tick checked={value.allowance !== null} onChange={(on) => onChange({ allowance: on ? 100 : null })}>
          It has an allowance
        </Tick>
        {value.allowance !== null && (
          <NumberField
            label="Pictures left"
            unit=""
            value={value.allowance}
            onDone={(left) => onChange({ allowance: Math.round(left) })}
          />
        )}
      </div>
    </div>
  );
}
