import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type CollectionView, type Process, type YardstickBody } from "@/api/client";
import { keys, useScene } from "@/api/queries";
import { Picker } from "@/ui/Picker";
import { Button } from "@/ui/Button";
import { NumberField, TextField } from "@/ui/Field";
import { Panel } from "@/ui/Panel";
import { Tick } from "@/ui/Tick";
import { mm } from "@/ui/format";
import { toBody, useKeepYardstick } from "./changes";

const PROCESS_WORDS: Record<Process, string> = {
  "laser-engrave": "Laser engraving",
  "laser-cut": "Laser cutting",
  carve: "Carving",
  relief: "3D-printed relief",
  apparel: "Garment print",
  stencil: "Stencil",
};

interface Props {
  open: boolean;
  onClose: () => void;
  view: CollectionView;
}

export function YardstickPanel({ open, onClose, view }: Props) {
  const [editing, setEditing] = useState<{ id: number | null; body: YardstickBody } | null>(null);
  return (
    <Panel
      open={open}
      onClose={() => {
        setEditing(null);
        onClose();
      }}
      title={editing ? (editing.id ? "Change yardstick" : "New yardstick") : "Yardstick"}
      width={520}
    >
      {editing ? (
        <Editor start={editing.body} id={editing.id} onDone={() => setEditing(null)} view={view} />
      ) : (
        <Choice view={view} onClose={onClose} onEdit={(id, body) => setEditing({ id, body })} />
      )}
    </Panel>
  );
}

function Choice({
  view,
  onClose,
  onEdit,
}: {
  view: CollectionView;
  onClose: () => void;
  onEdit: (id: number | null, body: YardstickBody) => void;
}) {
  const yardsticks = useQuery({ queryKey: keys.yardsticks, queryFn: () => ask(api.GET("/api/yardsticks")) });
  const client = useQueryClient();
  const choose = useMutation({
    mutationFn: (id: number) =>
      ask(
        api.PUT("/api/collections/{collection_id}/yardstick", {
          params: { path: { collection_id: view.collection.id } },
          body: { yardstick_id: id },
        }),
      ),
    onSuccess: (next) => {
      client.setQueryData(keys.collection(view.collection.id), next);
      onClose();
    },
  });
  return (
    <>
      <ul className="border-t border-hair">
        {yardsticks.data?.map((each) => (
          <li key={each.id} className="flex items-center border-b border-hair">
            <button
              type="button"
              onClick={() => choose.mutate(each.id)}
              className={`grow px-2 py-1.5 text-left hover:bg-paper ${each.id === view.yardstick.id ? "shadow-[inset_3px_0_var(--color-blue-pencil)]" : ""}`}
            >
              <span className="font-semibold">{each.name}</span>
              <span className="ml-2 text-pencil">{PROCESS_WORDS[each.yardstick.process]}</span>
              <span className="num block text-pencil">
                {mm(each.yardstick.width_mm)} wide, part ≥ {mm(each.yardstick.limits.thin_mm)}, gap ≥{" "}
                {mm(each.yardstick.limits.gap_mm)}
              </span>
            </button>
            <button type="button" className="link px-2" onClick={() => onEdit(each.id, toBody(each))}>
              change
            </button>
          </li>
        ))}
      </ul>
      {choose.error && (
        <p role="alert" className="mt-2 text-red-pencil">
          {choose.error.message}
        </p>
      )}
      <div className="mt-4">
        <Button onClick={() => onEdit(null, { ...toBody(view.yardstick), name: "" })}>New yardstick …</Button>
      </div>
    </>
  );
}

function Editor({
  start,
  id,
  onDone,
  view,
}: {
  start: YardstickBody;
  id: number | null;
  onDone: () => void;
  view: CollectionView;
}) {
  const scene = useScene().data;
  const [body, setBody] = useState(start);
  const save = useKeepYardstick(view, id);
  const put = (change: Partial<YardstickBody>) => setBody({ ...body, ...change });
  const limit = (change: Partial<YardstickBody["limits"]>) => put({ limits: { ...body.limits, ...change } });
  const setProcess = (process: Process) => {
    const usual = scene?.processes.find((each) => each.process === process)?.limits;
    put({ process, limits: usual ? { ...usual } : body.limits });
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(body, { onSuccess: onDone });
      }}
    >
      <div className="grid grid-cols-2 gap-x-6 gap-y-2">
        <TextField
          label="Name"
          value={body.name}
          maxLength={120}
          autoFocus
          onChange={(event) => put({ name: event.target.value })}
        />
        <div>
          <span className="mb-0.5 block text-pencil">Process</span>
          <Picker
            label="Process"
            value={body.process}
            options={Object.entries(PROCESS_WORDS).map(([value, label]) => ({ value, label }))}
            onChange={(process) => setProcess(process as Process)}
            className="w-full"
          />
        </div>
        <TextField
          label="Blank"
          value={body.blank ?? ""}
          maxLength={120}
          onChange={(event) => put({ blank: event.target.value })}
        />
        <div className="pt-5">
          <NumberField
            label="Finished width"
            unit="mm"
            value={body.width_mm}
            onDone={(width_mm) => put({ width_mm })}
          />
        </div>
        <NumberField
          label="Blank width"
          unit="mm"
          value={body.blank_width_mm}
          onDone={(blank_width_mm) => put({ blank_width_mm })}
        />
        <NumberField
          label="Blank height"
          unit="mm"
          value={body.blank_height_mm}
          onDone={(blank_height_mm) => put({ blank_height_mm })}
        />
        <NumberField
          label="Thinnest part"
          unit="mm"
          value={body.limits.thin_mm}
          onDone={(thin_mm) => limit({ thin_mm })}
        />
        <NumberField
          label="Smallest gap"
          unit="mm"
          value={body.limits.gap_mm}
          onDone={(gap_mm) => limit({ gap_mm })}
        />
        <NumberField
          label="Speck under"
          unit="mm²"
          value={body.limits.speck_mm2}
          onDone={(speck_mm2) => limit({ speck_mm2 })}
        />
        <NumberField
          label="Tool radius at inside corners"
          unit="mm"
          value={body.limits.corner_mm ?? 0}
          onDone={(corner_mm) => limit({ corner_mm })}
        />
        <NumberField
          label="Colours at most"
          unit=""
          value={body.limits.colours ?? 24}
          onDone={(colours) => limit({ colours: Math.round(colours) })}
        />
        <div>
          <Tick checked={body.limits.one_piece ?? false} onChange={(one_piece) => limit({ one_piece })}>
            Must hang together in one piece
          </Tick>
          <Tick checked={body.limits.cut_away ?? false} onChange={(cut_away) => limit({ cut_away })}>
            Dark areas are cut away (stencil)
          </Tick>
        </div>
      </div>
      {save.error && (
        <p role="alert" className="mt-3 text-red-pencil">
          {save.error.message}
        </p>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onDone}>Back</Button>
        <Button kind="ink" type="submit" disabled={save.isPending}>
          Save
        </Button>
      </div>
    </form>
  );
}
