import { CircleAlert, PackageOpen } from "lucide-react";
import type { ReactNode } from "react";
import { ApiError } from "../api/client";
import { Button } from "./Button";

export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="border border-dashed border-base-300 bg-base-200/50 p-8 text-center">
      <PackageOpen className="mx-auto mb-2 text-accent" size={30} aria-hidden />
      <p className="font-semibold">{title}</p>
      <div className="muted mt-1">{children}</div>
    </div>
  );
}

export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="muted p-6">
      <span className="loading loading-dots loading-sm mr-2" aria-hidden />
      Fetching {what}
    </p>
  );
}

/** What happened, and what to do. */
export function Problem({ error, again }: { error: unknown; again?: () => void }) {
  const said = error instanceof Error ? error.message : String(error);
  return (
    <div
      role="alert"
      className="my-2 flex items-start gap-2 border-l-4 border-error bg-base-200 p-3"
    >
      <CircleAlert size={18} className="mt-0.5 shrink-0 text-error" aria-hidden />
      <div>
        <p className="font-semibold">{said}</p>
        {error instanceof ApiError && <p>{error.wayOut}</p>}
        {again && (
          <Button className="mt-2" onClick={again}>
            Try again
          </Button>
        )}
      </div>
    </div>
  );
}

/** What failed, in its own words: an encoder's, or the library's. */
export function OwnWords({ said }: { said?: string }) {
  if (!said) return null;
  return (
    <details className="mt-1">
      <summary className="cursor-pointer">Its own words</summary>
      <pre className="figure max-h-48 overflow-auto text-xs whitespace-pre-wrap">{said}</pre>
    </details>
  );
}
