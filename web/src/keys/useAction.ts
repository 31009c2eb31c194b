/** Actions by name: a stage says what a key does while it is on screen; the shell hears the keys. */
import { useEffect, useRef } from "react";
import { bindingFor } from "./keymap";

type Handler = (event: KeyboardEvent) => void;
const handlers = new Map<string, Handler>();

/** Let an action do something for as long as the component is there. The last one to ask gets it. */
export function useAction(id: string, handler: Handler | null) {
  const latest = useRef(handler);
  latest.current = handler;
  const offered = handler !== null;
  useEffect(() => {
    if (!offered) return;
    const run: Handler = (event) => latest.current?.(event);
    handlers.set(id, run);
    return () => {
      if (handlers.get(id) === run) handlers.delete(id);
    };
  }, [id, offered]);
}

export function useKeyboard() {
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      if (event.defaultPrevented || document.querySelector('[role="dialog"]')) return;
      const binding = bindingFor(event);
      const handler = binding && handlers.get(binding.id);
      if (!handler) return;
      event.preventDefault();
      handler(event);
    };
    window.addEventListener("keydown", hear);
    return () => window.removeEventListener("keydown", hear);
  }, []);
}
