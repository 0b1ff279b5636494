import { useEffect, useState } from "react";

export type Key = { key: string; does: string; run: () => void };
let shown: Key[] = [];
const listeners = new Set<() => void>();

/**
 * Whether what has the focus does something of its own with a key: fields with all, buttons and
 * links with Enter and Space.
 */
function takesKeys(at: HTMLElement, key: string): boolean {
  if (/^(INPUT|TEXTAREA|SELECT)$/.test(at.tagName) || at.isContentEditable) return true;
  return (
    (key === "Enter" || key === " ") && at.closest("a, button, summary, [role=button]") !== null
  );
}

/** Gives a page its keys; `?` lists them. Keys rest while a person types. */
export function useKeys(keys: Key[]) {
  useEffect(() => {
    shown = keys;
    listeners.forEach((l) => l());
    const press = (e: KeyboardEvent) => {
      const at = e.target as HTMLElement;
      if (e.ctrlKey || e.metaKey || e.altKey || takesKeys(at, e.key)) return;
      const found = keys.find((k) => k.key === e.key);
      if (found) {
        e.preventDefault();
        found.run();
      }
    };
    window.addEventListener("keydown", press);
    return () => {
      window.removeEventListener("keydown", press);
      shown = [];
    };
  });
}

export function KeyHelp() {
  const [open, setOpen] = useState(false);
  const [, redraw] = useState(0);
  useEffect(() => {
    const again = () => redraw((n) => n + 1);
    if (open) listeners.add(again);
    const press = (e: KeyboardEvent) => {
      if (/^(INPUT|TEXTAREA|SELECT)$/.test((e.target as HTMLElement).tagName)) return;
      if (e.key === "?") setOpen((o) => !o);
      if (e.key === "Escape") setOpen(false);
    };
    window.addEventListener("keydown", press);
    return () => {
      listeners.delete(again);
      window.removeEventListener("keydown", press);
    };
  }, [open]);
  if (!open) return null;
  const all = [
    ...shown.map((k) => ({ key: k.key, does: k.does })),
    { key: "?", does: "show or hide this list" },
  ];
  return (
    <aside aria-label="Keys of this page" className="key-list fixed right-4 bottom-4 z-20 w-72 p-3">
      <h2 className="mb-1 font-semibold">Keys of this page</h2>
      <dl>
        {all.map((k) => (
          <div key={k.key} className="flex gap-3 py-0.5">
            <dt>
              <kbd className="kbd kbd-sm">{k.key === " " ? "space" : k.key}</kbd>
            </dt>
            <dd>{k.does}</dd>
          </div>
        ))}
      </dl>
    </aside>
  );
}
