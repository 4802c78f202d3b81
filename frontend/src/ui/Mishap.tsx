import type { ReactNode } from "react";
import { ErrorBoundary } from "react-error-boundary";
import { Button } from "./controls";

/** Keeps a part of the window that breaks from taking the rest with it. */
export function Mishap({ children }: { children: ReactNode }) {
  return (
    <ErrorBoundary
      fallbackRender={({ error, resetErrorBoundary }) => (
        <div role="alert" className="m-4 space-y-2 rounded-md border border-red/50 bg-paper p-3 leading-snug">
          <p className="font-semibold">This part of the window stopped working.</p>
          <p className="text-soft">Your edits are stored. Try again; if it happens again, reload the window.</p>
          <p className="font-mono text-xs break-words text-soft">{error instanceof Error ? error.message : String(error)}</p>
          <div className="flex gap-1.5">
            <Button look="strong" onClick={resetErrorBoundary}>
              Try again
            </Button>
            <Button onClick={() => window.location.reload()}>Reload</Button>
          </div>
        </div>
      )}
    >
      {children}
    </ErrorBoundary>
  );
}
