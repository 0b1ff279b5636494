import { type ReactNode, useEffect } from "react";

type Props = { title: string; number?: string; children?: ReactNode };

/** The head of a page: its title, in the window's too, and what can be done at once. */
export function PageHead({ title, number, children }: Props) {
  const whole = number ? `${number} ${title}` : title;
  useEffect(() => {
    document.title = `${whole} · Ample Crate`;
    return () => {
      document.title = "Ample Crate";
    };
  }, [whole]);
  return (
    <header className="mb-3 flex flex-wrap items-end gap-x-4 gap-y-1">
      <h1 className="font-stencil text-2xl leading-tight">
        {number && <span className="mr-3 border-2 border-base-content px-2">{number}</span>}
        {title}
      </h1>
      <div className="ml-auto flex flex-wrap items-center gap-2">{children}</div>
    </header>
  );
}
