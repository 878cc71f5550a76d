import { Toast } from "radix-ui";
import { createContext, useCallback, useContext, useState, type ReactNode } from "react";

export interface Notice {
  text: string;
  /** a way back or onward */
  action?: { label: string; run: () => void };
}

const Context = createContext<(notice: Notice) => void>(() => {});

/** Shows a notice for a while, with a way to undo where there is one. */
export const useNotice = () => useContext(Context);

export function Notices({ children }: { children: ReactNode }) {
  const [notices, setNotices] = useState<(Notice & { id: number })[]>([]);
  const show = useCallback((notice: Notice) => setNotices((all) => [...all.slice(-2), { ...notice, id: Date.now() + Math.random() }]), []);
  return (
    <Context.Provider value={show}>
      <Toast.Provider duration={8000}>
        {children}
        {notices.map((notice) => (
          <Toast.Root
            key={notice.id}
            onOpenChange={(open) => !open && setNotices((all) => all.filter((n) => n.id !== notice.id))}
            className="flex items-center gap-4 rounded-[4px] bg-ink px-4 py-2.5 text-on-ink shadow-lg"
          >
            <Toast.Description>{notice.text}</Toast.Description>
            {notice.action && (
              <Toast.Action
                altText={notice.action.label}
                onClick={notice.action.run}
                className="font-semibold underline underline-offset-4"
              >
                {notice.action.label}
              </Toast.Action>
            )}
          </Toast.Root>
        ))}
        <Toast.Viewport className="fixed right-5 bottom-5 z-50 flex w-auto max-w-[480px] flex-col gap-2 outline-none" />
      </Toast.Provider>
    </Context.Provider>
  );
}
