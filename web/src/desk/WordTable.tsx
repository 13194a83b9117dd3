import { chakra } from "@chakra-ui/react";
import { type ComponentProps, Fragment, type ReactNode } from "react";
import type { Schemas } from "../api/client";
import { Action } from "../app/parts";
import { Cell, Head } from "./cells";
import { Value } from "./Sentence";
import type { DeskState } from "./useDesk";

type Word = Schemas["Word"];

/** Rows of values that can be typed over in place, numbered where they have no name, and what is done with each. */
export function WordTable(props: {
  heads: readonly string[];
  rows: readonly Word[][];
  desk: DeskState;
  testId: string;
  numbered?: boolean;
  /** What stands beside the first value of a row. */
  beside?: (row: number) => ReactNode;
  actions: (row: number) => ReactNode;
}) {
  const { heads, rows, desk, testId, numbered, beside, actions } = props;
  return (
    <chakra.div overflowX="auto">
      <chakra.table fontSize="15px" mt="2" data-testid={testId}>
        <thead>
          <tr>
            {heads.map((name) => (
              <Head key={name}>{name}</Head>
            ))}
            <Head />
          </tr>
        </thead>
        <tbody>
          {rows.map((words, row) => (
            <chakra.tr key={words[0]?.field} borderTop="1px solid" borderColor="line">
              {numbered && <Cell className="figure">{row + 1}</Cell>}
              {words.map((word, at) => (
                <Fragment key={word.field}>
                  <Cell>
                    <Value word={{ ...word, field: word.field ?? "" }} desk={desk} />
                  </Cell>
                  {at === 0 && beside && (
                    <Cell className="figure" color="inkSoft" fontSize="13px">
                      {beside(row)}
                    </Cell>
                  )}
                </Fragment>
              ))}
              <Cell>{actions(row)}</Cell>
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
    </chakra.div>
  );
}

/** A small button in a row, as large as a finger on a phone. */
export function RowAction(props: ComponentProps<typeof Action>) {
  return <Action minH={{ base: "11", md: "8" }} px="2.5" mr="1" {...props} />;
}
