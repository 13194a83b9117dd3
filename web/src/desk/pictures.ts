import { useEffect, useRef, useState } from "react";
import { api, type Shot, told } from "../api/client";
import { useOnceQuiet } from "./asking";

interface Made<T> {
  blob: Blob;
  of: T;
}

/** The newest picture that was asked for, as an address with what it is of; addresses are let go when they are old. */
function useAddress<T>(answer: Made<T> | null): { address: string; of: T } | null {
  const [made, setMade] = useState<{ address: string; of: T } | null>(null);
  const last = useRef<string | null>(null);
  useEffect(() => {
    if (!answer) return;
    const address = URL.createObjectURL(answer.blob);
    setMade({ address, of: answer.of });
    if (last.current) URL.revokeObjectURL(last.current);
    last.current = address;
  }, [answer]);
  useEffect(() => () => (last.current ? URL.revokeObjectURL(last.current) : undefined), []);
  return made;
}

/**
 * The picture of a frame, or of an output at it, as an address: the newest that was asked for, and null while none of
 * that output is there. `undefined` asks for none.
 */
export function usePicture(shot: Shot, number: number, output: number | null | undefined): string | null {
  const { answer } = useOnceQuiet<Made<number | null> | null>(
    async (signal) => {
      if (output === undefined) return null;
      const body = { shot, number, output, width: 480 };
      const blob = await told(api.POST("/api/programs/picture", { body, parseAs: "blob", signal }));
      return { blob: blob as Blob, of: output };
    },
    [shot, number, output],
  );
  const made = useAddress(answer);
  return made && made.of === output ? made.address : null;
}

/** The small pictures of the film beside each other in one, and how large each is; the last until the next is there. */
export function useStrip(shot: Shot, cells: number): { address: string; wide: number; high: number } | null {
  const { answer } = useOnceQuiet<Made<{ wide: number; high: number; cells: number }>>(
    async (signal) => {
      const blob = (await told(
        api.POST("/api/programs/strip", { body: shot, parseAs: "blob", signal }),
      )) as Blob;
      const { width, height } = await createImageBitmap(blob);
      return { blob, of: { wide: width / cells, high: height, cells } };
    },
    [shot, cells],
  );
  const made = useAddress(answer);
  return made && made.of.cells === cells ? { address: made.address, ...made.of } : null;
}
