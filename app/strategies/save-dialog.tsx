import { useState } from "react";
import type { Strategy } from "#core/documents";
import { differences } from "#core/wording";
import { Button } from "~/design/button";
import { Dialog } from "~/design/dialog";
import { DifferenceList } from "./difference-list";

interface SaveDialogProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  saved: Strategy;
  strategy: Strategy;
  number: number;
  /** the note to begin with */
  origin?: string;
  onSave: (note: string) => void;
}

/** What is about to be saved, in words, and a note for later. Enter saves. */
export function SaveDialog({ open, onOpenChange, saved, strategy, number, origin = "", onSave }: SaveDialogProps) {
  const [note, setNote] = useState(origin);
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title={`Save as version ${number}`}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onSave(note.trim());
          setNote("");
        }}
      >
        <div className="mb-3 max-h-60 overflow-auto">
          <DifferenceList differences={differences(saved, strategy)} />
        </div>
        <label className="block text-sm text-ink-soft">
          Note: why
          <input
            autoFocus
            value={note}
            onChange={(event) => setNote(event.target.value)}
            placeholder="may stay empty"
            className="w-full rounded-[4px] border border-edge bg-sheet px-2 py-1 text-base text-ink placeholder:text-ink-soft"
          />
        </label>
        <div className="mt-3 flex justify-end gap-2">
          <Button look="quiet" onClick={() => onOpenChange(false)}>
            Go on writing
          </Button>
          <Button look="primary" type="submit">
            Save version {number}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
