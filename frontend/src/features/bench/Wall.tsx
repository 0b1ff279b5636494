import type { ReactNode } from "react";

/** A pixel aspect such as "16/15" as a number. */
export const pixel = (ratio: string) => {
  const [over, under = "1"] = ratio.split("/");
  return Number(over) / Number(under);
};

/** A picture at its true shape, on grey. */
export function Wall({ aspect, children }: { aspect: number; children: ReactNode }) {
  return (
    <div className="grey-wall flex h-[20rem] items-center justify-center p-1">
      <div
        className="relative overflow-hidden"
        style={{ aspectRatio: String(aspect), width: `min(100%, calc(19.5rem * ${aspect}))` }}
      >
        {children}
      </div>
    </div>
  );
}
