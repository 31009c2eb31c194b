/** Each subject with its pose, its note and its wording, to be drawn here or copied out for any generator. */
import { useState } from "react";
import type { SubjectWording } from "@/api/client";
import { tellDone, tellProblem } from "@/ui/notices";
import type { LineChange } from "./lines";

interface Props {
  lines: SubjectWording[];
  repeated: string[];
  onOpen: (subject: string) => void;
  onChange: (subject: string, change: LineChange) => void;
  onMove: (subject: string, by: -1 | 1) => void;
  /** A wording written by hand; empty brings back the composed one. */
  onEdit: (subject: string, wording: string) => void;
  onEarlier: () => void;
}

export function WordingList(props: Props) {
  const { lines, repeated } = props;
  return (
    <section aria-label="Wording" className="flex min-h-0 flex-col">
      <div className="flex items-baseline justify-between gap-4">
        <h2 className="text-xl">Wording</h2>
        <span className="flex gap-4">
          <button type="button" className="link" onClick={props.onEarlier}>
            earlier briefs
          </button>
          {lines.length > 0 && (
            <button
              type="button"
              className="link"
              onClick={() =>
                void copy(
                  lines
                    .filter((line) => line.on)
                    .map((line) => line.wording)
                    .join("\n"),
                  "the whole list",
                )
              }
            >
              copy the list
            </button>
          )}
        </span>
      </div>
      <p className="mb-2 text-pencil">
        {repeated.length > 0 ? (
          <span className="text-ochre-text">
            Twice in the list: {repeated.join(", ")}. The first one counts.
          </span>
        ) : (
          "Composed from subject, style and rules; works in any picture generator."
        )}
      </p>
      <ol className="min-h-0 grow overflow-y-auto border-t border-hair pb-4">
        {lines.map((line, index) => (
          <WordingRow
            key={line.subject}
            line={line}
            first={index === 0}
            last={index === lines.length - 1}
            {...props}
          />
        ))}
        {lines.length === 0 && (
          <li className="py-6 text-pencil">Write subjects on the left: their wording appears here.</li>
        )}
      </ol>
    </section>
  );
}

function WordingRow({
  line,
  first,
  last,
  onOpen,
  onChange,
  onMove,
  onEdit,
}: Props & { line: SubjectWording; first: boolean; last: boolean }) {
  const [editing, setEditing] = useState(false);
  const { subject } = line;
  return (
    <li
      aria-label={subject}
      className={`grid grid-cols-[164px_minmax(0,1fr)_auto] gap-4 border-b border-hair py-2 ${line.on ? "" : "text-pencil"}`}
    >
      <div>
        <div className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={line.on}
            aria-label={`Draw ${subject}`}
            onChange={(event) => onChange(subject, { on: event.target.checked })}
            className="size-3.5 accent-graphite"
          />
          <button
            type="button"
            className="truncate text-left font-semibold hover:text-blue-pencil"
            onClick={() => onOpen(subject)}
          >
            {subject}
          </button>
          <span className="ml-auto flex">
            <Move label={`Move ${subject} up`} off={first} onClick={() => onMove(subject, -1)} text="↑" />
            <Move label={`Move ${subject} down`} off={last} onClick={() => onMove(subject, 1)} text="↓" />
          </span>
        </div>
        <LineField
          label="pose"
          of={subject}
          value={line.pose}
          onDone={(pose) => onChange(subject, { pose })}
        />
        <LineField
          label="note"
          of={subject}
          value={line.note}
          onDone={(note) => onChange(subject, { note })}
        />
        {!line.drawable && <p className="text-sm text-red-pencil">the stand-in can't draw it</p>}
      </div>
      {editing ? (
        <textarea
          autoFocus
          aria-label={`Wording of ${subject}`}
          defaultValue={line.wording}
          rows={4}
          onBlur={(event) => {
            setEditing(false);
            if (event.target.value.trim() !== line.wording) onEdit(subject, event.target.value);
          }}
          onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
          className="resize-none border border-blue-pencil bg-sheet px-1.5 py-0.5"
        />
      ) : (
        <p>
          {line.wording}
          {line.edited && <span className="ml-1.5 text-blue-pencil">written by hand</span>}
        </p>
      )}
      <div className="flex flex-col items-end gap-0.5 self-start">
        <button
          type="button"
          className="link"
          aria-label={`Copy the wording of ${subject}`}
          onClick={() => void copy(line.wording, `the wording of ${subject}`)}
        >
          copy
        </button>
        <button
          type="button"
          className="link"
          aria-label={`Edit the wording of ${subject}`}
          onClick={() => setEditing(true)}
        >
          edit
        </button>
        {line.edited && (
          <button
            type="button"
            className="link"
            aria-label={`Compose the wording of ${subject} again`}
            onClick={() => onEdit(subject, "")}
          >
            undo
          </button>
        )}
      </div>
    </li>
  );
}

function Move({
  label,
  text,
  off,
  onClick,
}: {
  label: string;
  text: string;
  off: boolean;
  onClick: () => void;
}) {
  return (
    <button
      type="button"
      aria-label={label}
      disabled={off}
      onClick={onClick}
      className="num px-1 text-pencil enabled:hover:text-graphite disabled:opacity-30"
    >
      {text}
    </button>
  );
}

function LineField({
  label,
  of,
  value,
  onDone,
}: {
  label: string;
  of: string;
  value: string;
  onDone: (value: string) => void;
}) {
  return (
    <label className="flex items-baseline gap-1.5 text-sm">
      <span className="w-8 text-pencil">{label}</span>
      <input
        key={value}
        defaultValue={value}
        aria-label={`${label === "pose" ? "Pose" : "Note"} of ${of}`}
        placeholder={label === "pose" ? "facing left" : ""}
        onBlur={(event) => event.target.value.trim() !== value && onDone(event.target.value)}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
        className="min-w-0 grow border-b border-hair bg-transparent placeholder:text-[#6b6f7680] hover:border-graphite focus:border-blue-pencil focus:outline-none"
      />
    </label>
  );
}

const copy = (text: string, what: string) =>
  navigator.clipboard.writeText(text).then(
    () => tellDone(`Copied ${what}.`),
    () => tellProblem(new Error("The browser did not allow copying. Select the text and copy it by hand.")),
  );
