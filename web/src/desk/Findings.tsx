import { Box, chakra, Flex } from "@chakra-ui/react";
import { memo, type RefObject, useCallback, useEffect, useRef } from "react";
import type { Plan } from "../api/client";
import { Judged } from "../app/Judged";
import { Action, Offer, StateMark } from "../app/parts";
import { Beside } from "./beside";

type FindingOf = Plan["findings"][number];

type OnFix = (finding: string, label: string) => void;

/**
 * Keeps the focus where one works when a fix is taken: its button goes away with its finding, and the
 * heading of what is left takes over.
 */
function useFocusKept(findings: FindingOf[], heading: RefObject<HTMLElement | null>) {
  const took = useRef(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: looked at again with every answer
  useEffect(() => {
    if (!took.current) return;
    took.current = false;
    if (!document.activeElement || document.activeElement === document.body) heading.current?.focus();
  }, [findings, heading]);
  return useCallback(() => {
    took.current = true;
  }, []);
}

/** What will go wrong, worst first, and what can be done about it at which price. */
export const Findings = memo(function Findings(props: {
  findings: FindingOf[];
  onFix: OnFix;
  onResolve: () => void;
}) {
  const { findings, onFix, onResolve } = props;
  const heading = useRef<HTMLHeadingElement>(null);
  const keepFocus = useFocusKept(findings, heading);
  const take = useCallback<OnFix>(
    (finding, label) => {
      keepFocus();
      onFix(finding, label);
    },
    [keepFocus, onFix],
  );
  const fails = findings.filter((one) => one.severity === "stop" || one.severity === "fix").length;
  const minds = findings.filter((one) => one.severity === "mind").length;
  const counts = [fails && `${fails} will fail`, minds && `${minds} to mind`].filter(Boolean).join(" · ");
  return (
    <Box as="aside" aria-label="Findings" data-testid="findings">
      <Flex justify="space-between" align="baseline" mb="2" color="inkSoft" fontWeight="600" fontSize="14px">
        <chakra.h2 ref={heading} tabIndex={-1} outline="none">
          What will go wrong
        </chakra.h2>
        <span>{counts}</span>
      </Flex>
      {fails > 0 && (
        <Action width="100%" mb="2" onClick={onResolve} data-testid="open-resolve">
          Make it work …
        </Action>
      )}
      {findings.length === 0 && (
        <Flex bg="card" borderRadius="4px" p="4" gap="3" align="center">
          <StateMark severity="good" size={12} />
          <span>Nothing that Revani knows of stands against this shot.</span>
        </Flex>
      )}
      {findings.map((one) => (
        <Judgement key={one.id} one={one} onFix={take} />
      ))}
    </Box>
  );
});

/** One finding; answers keep the identity of those that say the same as before. */
const Judgement = memo(function Judgement({ one, onFix }: { one: FindingOf; onFix: OnFix }) {
  return (
    <Judged one={one} data-finding={one.id}>
      {one.fixes.map((fix) => (
        <Box key={fix.id} mt="2">
          <Offer
            data-fix={fix.label}
            display="block"
            width="100%"
            px="3"
            label={fix.label}
            told={fix.price}
            onClick={() => onFix(one.id, fix.id)}
          />
          <Beside
            said={fix.label}
            what={{ edits: [{ track: "fix", finding: one.id, fix: fix.id }], name: fix.label }}
          />
        </Box>
      ))}
    </Judged>
  );
});
