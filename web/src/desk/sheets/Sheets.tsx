import { memo } from "react";
import type { Shot } from "../../api/client";
import { ReadingDialog } from "../light/ReadingDialog";
import type { DeskState } from "../useDesk";
import { ArmDialog } from "./ArmDialog";
import { History } from "./History";
import { Presets } from "./Presets";
import { Resolve } from "./Resolve";
import { Shortcuts } from "./Shortcuts";
import { ShotDetails } from "./ShotDetails";
import { StandsThere } from "./StandsThere";
import { SubjectDialog } from "./SubjectDialog";
import { WeatherSheet } from "./WeatherSheet";

/** What can lie open on the desk. */
export type Sheet =
  | "details"
  | "keys"
  | "subject"
  | "reading"
  | "run"
  | "resolve"
  | "stands"
  | "weather"
  | "presets"
  | "history";

interface SheetsProps {
  desk: DeskState;
  shot: Shot;
  id: string;
  sheet: Sheet | null;
  /** The frame under the cursor. */
  number: number;
  onSheet: (sheet: Sheet | null) => void;
}

// The desk is another object with every plan; its acts stay the same.
const sameSheets = (a: SheetsProps, b: SheetsProps) =>
  a.sheet === b.sheet &&
  a.shot === b.shot &&
  a.id === b.id &&
  a.desk.brought === b.desk.brought &&
  (a.sheet !== "stands" || a.number === b.number);

/** All sheets of the desk, one of them open at most. */
export const Sheets = memo(function Sheets({ desk, shot, id, sheet, number, onSheet }: SheetsProps) {
  const close = () => onSheet(null);
  return (
    <>
      <ShotDetails desk={desk} shot={shot} open={sheet === "details"} onClose={close} />
      <SubjectDialog shot={shot} open={sheet === "subject"} onClose={close} onTake={desk.takeShot} />
      <ReadingDialog shot={shot} open={sheet === "reading"} onClose={close} onTake={desk.takeShot} />
      <Resolve
        shot={shot}
        neighbours={desk.neighbours}
        open={sheet === "resolve"}
        onClose={close}
        onTake={desk.takeShot}
      />
      <StandsThere desk={desk} shot={shot} number={number} open={sheet === "stands"} onClose={close} />
      <WeatherSheet desk={desk} shot={shot} open={sheet === "weather"} onClose={close} />
      <Presets shot={shot} open={sheet === "presets"} onClose={close} onTake={desk.takeShot} />
      <History id={id} open={sheet === "history"} onClose={close} onTake={desk.takeShot} />
      <Shortcuts open={sheet === "keys"} onClose={close} />
      <ArmDialog shotId={id} open={sheet === "run"} onClose={close} savedVersion={desk.savedVersion} />
    </>
  );
}, sameSheets);
