import { Tooltip } from "radix-ui";
import { useCallback, useState, type ReactNode } from "react";
import { isRouteErrorResponse, Link, Links, Meta, Outlet, Scripts, ScrollRestoration, useRouteLoaderData } from "react-router";
import type { Route } from "./+types/root";
import "./app.css";
import { Button } from "./design/button";
import { Notices } from "./design/toast";
import { useJobs } from "./shell/jobs";
import { KeysDialog, useShellKeys, useTheme } from "./shell/keys";
import { Palette } from "./shell/palette";
import { Rim } from "./shell/rim";

export const meta: Route.MetaFunction = () => [{ title: "Canyon" }];

export function loader({ context }: Route.LoaderArgs) {
  return { nonce: context.nonce };
}

/** The nonce belongs to the first page only; what comes after loads no inline script. */
export const shouldRevalidate = () => false;

const THEME = `try{var t=localStorage.getItem("canyon.theme");if(t==="dusk")document.documentElement.dataset.theme="dusk"}catch(e){}`;

export function Layout({ children }: { children: ReactNode }) {
  const data = useRouteLoaderData<typeof loader>("root");
  const nonce = data?.nonce;
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        <meta charSet="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <link rel="icon" href="/mark.svg" type="image/svg+xml" />
        <script nonce={nonce} suppressHydrationWarning dangerouslySetInnerHTML={{ __html: THEME }} />
        <Meta />
        <Links />
      </head>
      <body>
        {children}
        <ScrollRestoration nonce={nonce} />
        <Scripts nonce={nonce} />
      </body>
    </html>
  );
}

function Shell({ children }: { children: ReactNode }) {
  const jobs = useJobs();
  const [finding, setFinding] = useState(false);
  const [keys, setKeys] = useState(false);
  const [dusk, toggle] = useTheme();
  const find = useCallback(() => setFinding(true), []);
  const showKeys = useCallback(() => setKeys(true), []);
  useShellKeys(find, showKeys);
  return (
    <Tooltip.Provider delayDuration={300}>
      <Notices>
        <a href="#page" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-sheet focus:p-2">
          To the page
        </a>
        <div className="flex min-h-screen">
          <Rim jobs={jobs} onFind={find} onTheme={toggle} dusk={dusk} />
          <main id="page" tabIndex={-1} className="min-w-0 flex-1 px-6 pt-4.5 pb-8 outline-none">
            {children}
          </main>
        </div>
        <Palette open={finding} onOpenChange={setFinding} onTheme={toggle} onKeys={showKeys} />
        <KeysDialog open={keys} onOpenChange={setKeys} />
      </Notices>
    </Tooltip.Provider>
  );
}

export default function App() {
  return (
    <Shell>
      <Outlet />
    </Shell>
  );
}

export function ErrorBoundary({ error }: Route.ErrorBoundaryProps) {
  const missing = isRouteErrorResponse(error) && error.status === 404;
  const text = isRouteErrorResponse(error)
    ? typeof error.data === "string" && error.data !== ""
      ? error.data
      : error.statusText
    : error instanceof Error
      ? error.message
      : String(error);
  return (
    <Shell>
      <div className="mx-auto mt-16 max-w-[60ch]">
        <h1 className="text-2xl">{missing ? "There is nothing at this address" : "Canyon could not do this"}</h1>
        <p className="my-3 text-ink-soft">{text}</p>
        <p className="mb-4 text-ink-soft">
          {missing
            ? "It may have been removed, or the address is misspelt."
            : "Nothing was lost. Load the page again; if it stays, the server's own output says more."}
        </p>
        <Button asChild>
          <Link to="/library">To the library</Link>
        </Button>
      </div>
    </Shell>
  );
}
