import { lazy } from "react";
import { Route, Routes } from "react-router-dom";
import { Floor } from "../features/floor/Floor";
import { Empty } from "../ui/states";
import { Layout } from "./Layout";

// The floor is what a day begins with; every other page is fetched when it is gone to.
const Masters = lazy(async () => ({
  default: (await import("../features/masters/Masters")).Masters,
}));
const MasterPage = lazy(async () => ({
  default: (await import("../features/masters/MasterPage")).MasterPage,
}));
const Specs = lazy(async () => ({ default: (await import("../features/specs/Specs")).Specs }));
const SpecPage = lazy(async () => ({
  default: (await import("../features/specs/SpecPage")).SpecPage,
}));
const BeginSpec = lazy(async () => ({
  default: (await import("../features/specs/Begin")).BeginSpec,
}));
const EditSpec = lazy(async () => ({ default: (await import("../features/specs/Edit")).EditSpec }));
const Compare = lazy(async () => ({
  default: (await import("../features/specs/Compare")).Compare,
}));
const NewCrate = lazy(async () => ({
  default: (await import("../features/crates/NewCrate")).NewCrate,
}));
const CratePage = lazy(async () => ({
  default: (await import("../features/crates/CratePage")).CratePage,
}));
const Several = lazy(async () => ({
  default: (await import("../features/crates/Several")).Several,
}));
const CloneCrate = lazy(async () => ({
  default: (await import("../features/crates/Clone")).CloneCrate,
}));
const ItemsPage = lazy(async () => ({
  default: (await import("../features/items/ItemsPage")).ItemsPage,
}));
const SideBySide = lazy(async () => ({
  default: (await import("../features/crates/SideBySide")).SideBySide,
}));
const Rehearsal = lazy(async () => ({
  default: (await import("../features/crates/Rehearsal")).Rehearsal,
}));
const CodecTrial = lazy(async () => ({
  default: (await import("../features/masters/CodecTrial")).CodecTrial,
}));
const Bench = lazy(async () => ({ default: (await import("../features/bench/Bench")).Bench }));
const Receipts = lazy(async () => ({
  default: (await import("../features/receipts/Receipts")).Receipts,
}));
const Orders = lazy(async () => ({
  default: (await import("../features/orders/Orders")).Orders,
}));
const OrderPage = lazy(async () => ({
  default: (await import("../features/orders/OrderPage")).OrderPage,
}));
const EditOrder = lazy(async () => ({
  default: (await import("../features/orders/EditOrder")).EditOrder,
}));
const DaySheet = lazy(async () => ({
  default: (await import("../features/day/DaySheet")).DaySheet,
}));
const PastRuns = lazy(async () => ({
  default: (await import("../features/day/PastRuns")).PastRuns,
}));
const Housekeeping = lazy(async () => ({
  default: (await import("../features/housekeeping/Housekeeping")).Housekeeping,
}));

export function Pages() {
  return (
    <Routes>
      <Route element={<Layout />}>
        <Route index element={<Floor />} />
        <Route path="masters" element={<Masters />} />
        <Route path="masters/:id" element={<MasterPage />} />
        <Route path="specs" element={<Specs />} />
        <Route path="specs/new" element={<BeginSpec />} />
        <Route path="specs/write" element={<EditSpec />} />
        <Route path="masters/:id/codecs" element={<CodecTrial />} />
        <Route path="specs/compare" element={<Compare />} />
        <Route path="specs/:id" element={<SpecPage />} />
        <Route path="specs/:id/edit" element={<EditSpec />} />
        <Route path="crates/new" element={<NewCrate />} />
        <Route path="crates/several" element={<Several />} />
        <Route path="crates/:id" element={<CratePage />} />
        <Route path="crates/:id/clone" element={<CloneCrate />} />
        <Route path="items" element={<ItemsPage />} />
        <Route path="crates/:id/side-by-side/:deliverable" element={<SideBySide />} />
        <Route path="crates/:id/rehearsal/:deliverable" element={<Rehearsal />} />
        <Route path="crates/:id/bench/:deliverable" element={<Bench />} />
        <Route path="receipts" element={<Receipts />} />
        <Route path="orders" element={<Orders />} />
        <Route path="orders/new" element={<EditOrder />} />
        <Route path="orders/:id" element={<OrderPage />} />
        <Route path="orders/:id/edit" element={<EditOrder />} />
        <Route path="day" element={<DaySheet />} />
        <Route path="runs" element={<PastRuns />} />
        <Route path="housekeeping" element={<Housekeeping />} />
        <Route
          path="*"
          element={<Empty title="There is no such page">Choose one from the left.</Empty>}
        />
      </Route>
    </Routes>
  );
}
