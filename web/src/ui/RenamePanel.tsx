import { useState } from "react";
import { Button } from "./Button";
import { TextField } from "./Field";
import { Panel } from "./Panel";

interface Props {
  title: string;
  name: string;
  maxLength?: number;
  onClose: () => void;
  /** Called with the new name; a refused name is said and stays to be changed. */
  onKeep: (name: string) => Promise<unknown>;
}

/** Gives a thing another name. */
export function RenamePanel({ title, name, maxLength = 120, onClose, onKeep }: Props) {
  const [text, setText] = useState(name);
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const keep = async () => {
    setBusy(true);
    try {
      await onKeep(text);
      onClose();
    } catch (error) {
      setProblem(error instanceof Error ? error.message : "The name was not kept. Try again.");
    }
    setBusy(false);
  };
  return (
    <Panel open onClose={onClose} title={title} width={380}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <TextField
          label="Name"
          value={text}
          autoFocus
          maxLength={maxLength}
          onChange={(event) => setText(event.target.value)}
          onFocus={(event) => event.target.select()}
        />
        {problem && (
          <p role="alert" className="mt-2 text-red-pencil">
            {problem}
          </p>
        )}
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button kind="ink" type="submit" disabled={busy || !text.trim() || text === name}>
            Rename
          </Button>
        </div>
      </form>
    </Panel>
  );
}
