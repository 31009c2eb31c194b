import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "@/api/client";
import { keys } from "@/api/queries";
import { goToCollection, goToStage } from "@/place";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Panel } from "@/ui/Panel";

interface Props {
  open: boolean;
  onClose: () => void;
  yardstickId?: number;
}

export function NewCollection({ open, onClose, yardstickId }: Props) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const create = useMutation({
    mutationFn: () => ask(api.POST("/api/collections", { body: { name, yardstick_id: yardstickId } })),
    onSuccess: async (made) => {
      await client.invalidateQueries({ queryKey: keys.collections });
      goToCollection(made.id);
      goToStage("brief");
      setName("");
      onClose();
    },
  });
  return (
    <Panel open={open} onClose={onClose} title="New collection">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          create.mutate();
        }}
      >
        <TextField
          label="Name"
          value={name}
          autoFocus
          maxLength={120}
          onChange={(event) => setName(event.target.value)}
        />
        {create.error && (
          <p role="alert" className="mt-2 text-red-pencil">
            {create.error.message}
          </p>
        )}
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button kind="ink" type="submit" disabled={create.isPending}>
            Start it
          </Button>
        </div>
      </form>
    </Panel>
  );
}
