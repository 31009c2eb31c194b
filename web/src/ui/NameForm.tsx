import { useState } from "react";
import { Button } from "./Button";

interface Props {
  label: string;
  placeholder: string;
  busy: boolean;
  autoFocus?: boolean;
  /** Called with the name; once it is kept the field is emptied, a refused name stays to be changed. */
  onKeep: (name: string) => Promise<unknown>;
}

/** A name for something that is kept: settings, steps. */
export function NameForm({ label, placeholder, busy, autoFocus, onKeep }: Props) {
  const [name, setName] = useState("");
  return (
    <form
      className="flex gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (!name.trim()) return;
        onKeep(name).then(
          () => setName(""),
          () => undefined,
        );
      }}
    >
      <input
        autoFocus={autoFocus}
        aria-label={label}
        placeholder={placeholder}
        value={name}
        maxLength={120}
        onChange={(event) => setName(event.target.value)}
        className="min-w-0 flex-1 rounded border border-hair bg-sheet px-2 py-0.5"
      />
      <Button type="submit" disabled={!name.trim() || busy}>
        Keep
      </Button>
    </form>
  );
}
