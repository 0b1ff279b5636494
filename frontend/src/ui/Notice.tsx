import clsx from "clsx";
import type { ReactNode } from "react";

export type Tone = "error" | "warning" | "accent";

const EDGES: Record<Tone, string> = {
  error: "border-error",
  warning: "border-warning",
  accent: "border-accent",
};

type Props = {
  tone: Tone;
  /** "alert" is read out at once, "status" when there is time; left out, it is part of the page. */
  role?: "alert" | "status" | "note";
  className?: string;
  children: ReactNode;
};

/** Something to know, with an edge that says how grave it is; the words say it too. */
export function Notice({ tone, role, className, children }: Props) {
  return (
    <div role={role} className={clsx("mb-2 border-l-4 bg-base-200 p-2", EDGES[tone], className)}>
      {children}
    </div>
  );
}
