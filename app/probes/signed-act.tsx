import { useEffect, useState, type ReactNode } from "react";
import { useFetcher } from "react-router";
import { Button } from "~/design/button";
import { Dialog } from "~/design/dialog";
import { Field } from "~/design/field";
import { Problems } from "~/design/panel";

const WHO = "canyon.who";

/** The name that was signed with last in this browser. */
export const lastName = (): string => (typeof localStorage === "undefined" ? "" : (localStorage.getItem(WHO) ?? ""));

interface Props {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  title: string;
  about: string;
  /** sent along with reason and name */
  fields: Record<string, string>;
  act: string;
  action?: string;
  children?: ReactNode;
}

/** An act that stays on record: it takes a reason and a name. */
export function SignedAct({ open, onOpenChange, title, about, fields, act, action, children }: Props) {
  const fetcher = useFetcher<{ problems: { path: string; message: string }[] }>();
  const [reason, setReason] = useState("");
  const [name, setName] = useState("");
  useEffect(() => {
    if (open) setName(lastName());
  }, [open]);
  useEffect(() => {
    if (fetcher.state === "idle" && fetcher.data?.problems.length === 0) onOpenChange(false);
  }, [fetcher.state, fetcher.data, onOpenChange]);
  const send = () => {
    localStorage.setItem(WHO, name.trim());
    void fetcher.submit({ ...fields, reason, name }, { method: "post", action });
  };
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title={title} about={about}>
      <form
        className="flex flex-col gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          send();
        }}
      >
        {children}
        <Field label="Why" value={reason} onChange={(event) => setReason(event.target.value)} autoFocus />
        <Field label="Who" value={name} onChange={(event) => setName(event.target.value)} />
        <Problems problems={fetcher.data?.problems ?? []} />
        <div className="mt-1 flex gap-2">
          <Button type="submit" look="primary" disabled={fetcher.state !== "idle"}>
            {act}
          </Button>
          <Button look="quiet" onClick={() => onOpenChange(false)}>
            Leave it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
