import clsx from "clsx";
import {
  CalendarClock,
  FileVideo2,
  LayoutList,
  Moon,
  ReceiptText,
  Repeat,
  ScrollText,
  Sun,
  Warehouse,
} from "lucide-react";
import { Suspense, useState } from "react";
import { NavLink, Outlet } from "react-router-dom";
import { useAway } from "../api/client";
import { useLine, useLive } from "../api/live";
import { Notice } from "../ui/Notice";
import { KeyHelp } from "../ui/keys";
import { Loading } from "../ui/states";

const ROOMS = [
  { to: "/", name: "Floor", icon: LayoutList },
  { to: "/day", name: "Day sheet", icon: CalendarClock },
  { to: "/orders", name: "Orders", icon: Repeat },
  { to: "/masters", name: "Masters", icon: FileVideo2 },
  { to: "/specs", name: "Specs", icon: ScrollText },
  { to: "/receipts", name: "Receipts", icon: ReceiptText },
  { to: "/housekeeping", name: "Housekeeping", icon: Warehouse },
];

function stored(): string {
  return localStorage.getItem("theme") ?? "paper";
}

export function Layout() {
  useLive();
  const line = useLine();
  const away = useAway();
  const [theme, setTheme] = useState(stored);
  document.documentElement.dataset.theme = theme;
  const turn = () => {
    const next = theme === "paper" ? "dim" : "paper";
    localStorage.setItem("theme", next);
    setTheme(next);
  };
  return (
    <div className="flex min-h-screen">
      <a
        href="#page"
        className="sr-only focus:not-sr-only focus:absolute focus:bg-base-100 focus:p-2"
      >
        To the page
      </a>
      <nav
        aria-label="Rooms"
        className="room-list sticky top-0 flex h-screen w-40 shrink-0 flex-col self-start"
      >
        <p className="font-stencil px-3 py-4 text-xl leading-none">
          Ample
          <br />
          Crate
        </p>
        {ROOMS.map(({ to, name, icon: Icon }) => (
          <NavLink
            key={to}
            to={to}
            end={to === "/"}
            className={({ isActive }) =>
              clsx(
                "flex items-center gap-2 px-3 py-2 hover:bg-base-300",
                isActive
                  ? "border-l-4 border-primary bg-base-100 font-semibold"
                  : "border-l-4 border-transparent",
              )
            }
          >
            <Icon size={17} className="shrink-0" aria-hidden /> {name}
          </NavLink>
        ))}
        <div className="mt-auto p-3 text-xs">
          <p aria-live="polite" className="mb-2">
            {line === "live" && !away
              ? ""
              : "No live updates at the moment; they come back by themselves."}
          </p>
          <button className="flex items-center gap-1 hover:underline" onClick={turn}>
            {theme === "paper" ? <Moon size={14} aria-hidden /> : <Sun size={14} aria-hidden />}
            {theme === "paper" ? "Dim room" : "Daylight"}
          </button>
          <p className="mt-2">
            <kbd className="kbd kbd-xs">?</kbd> keys
          </p>
        </div>
      </nav>
      <main id="page" className="min-w-0 grow px-5 py-4">
        {away && (
          <Notice tone="warning" role="status">
            <b>{away}</b> This page waits for it and goes on by itself. What you see is kept.
          </Notice>
        )}
        <Suspense fallback={<Loading what="the page" />}>
          <Outlet />
        </Suspense>
      </main>
      <KeyHelp />
    </div>
  );
}
