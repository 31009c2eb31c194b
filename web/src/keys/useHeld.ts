import { useEffect, useState } from "react";
import { bindingFor } from "./keymap";

/** Whether the key of an action is held down now. */
export function useHeld(id: string): boolean {
  const [held, setHeld] = useState(false);
  useEffect(() => {
    const down = (event: KeyboardEvent) => bindingFor(event)?.id === id && setHeld(true);
    const up = (event: KeyboardEvent) => bindingFor(event)?.id === id && setHeld(false);
    const drop = () => setHeld(false);
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    window.addEventListener("blur", drop);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
      window.removeEventListener("blur", drop);
    };
  }, [id]);
  return held;
}
