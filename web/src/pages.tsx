import { lazy, Suspense } from "react";
import { Route, Routes } from "react-router";
import { Lost } from "./app/Lost";
import { Waiting } from "./app/parts";

const Tonight = lazy(() => import("./tonight/Tonight"));
const Begin = lazy(() => import("./begin/Begin"));
const Shots = lazy(() => import("./records/Shots"));
const Sequences = lazy(() => import("./sequences/Sequences"));
const Sequence = lazy(() => import("./sequences/Sequence"));
const Kit = lazy(() => import("./records/Kit"));
const Places = lazy(() => import("./records/Places"));
const Handbook = lazy(() => import("./handbook/Handbook"));
const Rigs = lazy(() => import("./rigs/Rigs"));
const Logbook = lazy(() => import("./records/Logbook"));
const Desk = lazy(() => import("./desk/Desk"));
const Run = lazy(() => import("./run/Run"));
const Rehearse = lazy(() => import("./rehearse/Rehearse"));
const Ways = lazy(() => import("./rehearse/Ways"));
const RigUp = lazy(() => import("./rigup/RigUp"));
const Code = lazy(() => import("./rigup/Code"));
const Packing = lazy(() => import("./rigup/Packing"));
const Review = lazy(() => import("./review/Review"));
const Report = lazy(() => import("./review/Report"));

/** Every address of the interface. */
export function Pages() {
  return (
    <Suspense fallback={<Waiting />}>
      <Routes>
        <Route path="/" element={<Tonight />} />
        <Route path="/begin" element={<Begin />} />
        <Route path="/shots" element={<Shots />} />
        <Route path="/shots/:id" element={<Desk />} />
        <Route path="/shots/:id/rehearse" element={<Rehearse />} />
        <Route path="/shots/:id/ways" element={<Ways />} />
        <Route path="/shots/:id/rig-up" element={<RigUp />} />
        <Route path="/packing" element={<Packing />} />
        <Route path="/code" element={<Code />} />
        <Route path="/sequences" element={<Sequences />} />
        <Route path="/sequences/:id" element={<Sequence />} />
        <Route path="/runs/:id" element={<Run />} />
        <Route path="/runs/:id/review" element={<Review />} />
        <Route path="/runs/:id/report" element={<Report />} />
        <Route path="/kit" element={<Kit />} />
        <Route path="/places" element={<Places />} />
        <Route path="/handbook" element={<Handbook />} />
        <Route path="/rigs" element={<Rigs />} />
        <Route path="/logbook" element={<Logbook />} />
        <Route path="*" element={<Lost what="There is no such page." />} />
      </Routes>
    </Suspense>
  );
}
