import { chakra } from "@chakra-ui/react";

/** A cell and a heading of the desk's tables. */
export const Cell = chakra("td", {
  base: { py: "1", pr: "3", verticalAlign: "middle", whiteSpace: "nowrap" },
});
export const Head = chakra("th", {
  base: {
    textAlign: "left",
    fontWeight: "400",
    color: "inkSoft",
    fontSize: "13px",
    pr: "3",
    whiteSpace: "nowrap",
  },
});
