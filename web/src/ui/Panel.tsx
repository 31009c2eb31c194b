import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

interface Props {
  open: boolean;
  onClose: () => void;
  title: string;
  description?: string;
  width?: number;
  children: ReactNode;
}

/** A sheet of paper laid over the work: for the few things that need an answer before going on. */
export function Panel({ open, onClose, title, description, width = 460, children }: Props) {
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-[#24272b55]" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[12vh] left-1/2 z-50 max-h-[78vh] -translate-x-1/2 overflow-y-auto border border-graphite bg-sheet p-5"
          style={{ width }}
        >
          <Dialog.Title className="text-xl">{title}</Dialog.Title>
          {description && <Dialog.Description className="mt-1 text-pencil">{description}</Dialog.Description>}
          <div className="mt-3">{children}</div>
          <Dialog.Close
            aria-label="Close"
            className="absolute top-4 right-4 size-6 text-pencil hover:text-graphite"
          >
            ✕
          </Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
