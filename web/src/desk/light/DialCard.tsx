import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { api, type Plan, told } from "../../api/client";
import { Action, Panel } from "../../app/parts";

/** What is set on a body that nobody is linked to, in the order in which it is dialled; nothing where Revani sets it. */
export function DialCard({ plan }: { plan: Plan }) {
  const [copied, setCopied] = useState("");
  if (plan.dials.length === 0) return null;
  const copy = async () => {
    const text = await told(
      api.POST("/api/programs/formats/{name}", {
        params: { path: { name: "dials-text" } },
        body: plan.shot,
        parseAs: "text",
      }),
    );
    try {
      await navigator.clipboard.writeText(String(text));
      setCopied("Copied.");
    } catch {
      setCopied("This browser does not let it be copied.");
    }
  };
  return (
    <Panel title="Dial card" mt="4">
      <chakra.table fontSize="15px" data-testid="dial-card" width="100%">
        <tbody>
          {plan.dials.map((row, i) => (
            <chakra.tr key={row.dial} borderBottom="1px solid" borderColor="line">
              <chakra.td className="figure" color="inkSoft" pr="3" py="1" width="1">
                {i + 1}
              </chakra.td>
              <chakra.th scope="row" textAlign="left" fontWeight="400" pr="4" whiteSpace="nowrap">
                {row.dial}
              </chakra.th>
              <chakra.td className="figure" fontWeight="700" pr="4">
                {row.to}
              </chakra.td>
              <chakra.td color="inkSoft" fontSize="14px">
                {row.mind}
              </chakra.td>
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
      <Action mt="3" onClick={() => void copy()}>
        Copy as text
      </Action>
      <chakra.span role="status" ml="3" fontSize="14px" color="inkSoft">
        {copied}
      </chakra.span>
    </Panel>
  );
}
