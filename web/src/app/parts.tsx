import { Box, chakra, Flex, type HTMLChakraProps } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Link } from "react-router";

export type Severity = "stop" | "fix" | "mind" | "good" | "unseen";

/** The mark beside a line that is good, to be minded, or bad. */
export const MARK_OF_TONE = { good: "good", mind: "mind", bad: "fix" } as const;

const SAID: Record<Severity, string> = {
  stop: "will fail",
  fix: "will fail",
  mind: "to mind",
  good: "good",
  unseen: "not looked at",
};

/** A mark whose shape alone tells its state: square will fail, half disc mind, disc good, ring unseen. */
export function StateMark({ severity, size = 10 }: { severity: Severity; size?: number }) {
  const colour = {
    stop: "fail",
    fix: "fail",
    mind: "accent",
    good: "hold",
    unseen: "inkSoft",
  }[severity];
  return (
    <chakra.svg width={`${size}px`} height={`${size}px`} viewBox="0 0 10 10" color={colour} flexShrink={0}>
      <title>{SAID[severity]}</title>
      {severity === "stop" && (
        <>
          <rect x="0.5" y="0.5" width="9" height="9" fill="currentColor" />
          <rect x="3.5" y="3.5" width="3" height="3" fill="var(--chakra-colors-card)" />
        </>
      )}
      {severity === "fix" && <rect x="0.5" y="0.5" width="9" height="9" fill="currentColor" />}
      {severity === "mind" && <path d="M3 0.5a4.5 4.5 0 0 1 0 9z" fill="currentColor" />}
      {severity === "good" && <circle cx="5" cy="5" r="4.5" fill="currentColor" />}
      {severity === "unseen" && (
        <circle cx="5" cy="5" r="4" fill="none" stroke="currentColor" strokeWidth="1" />
      )}
    </chakra.svg>
  );
}

type ActionProps = HTMLChakraProps<"button"> & { strong?: boolean };

/** A button: filled where it is the one thing to do, outlined elsewhere. */
export function Action({ strong, ...props }: ActionProps) {
  return (
    <chakra.button
      type="button"
      px="4"
      minH="9"
      borderRadius="6px"
      fontWeight="600"
      cursor="pointer"
      border="1.5px solid"
      borderColor="button"
      bg={strong ? "button" : "transparent"}
      color={strong ? "buttonText" : "ink"}
      _hover={{ borderColor: "accent" }}
      _disabled={{ opacity: 0.6, cursor: "not-allowed" }}
      {...props}
    />
  );
}

/** A button that keeps in the background: words with a line below. */
export function Quiet(props: HTMLChakraProps<"button">) {
  return (
    <chakra.button
      type="button"
      color="inkSoft"
      cursor="pointer"
      textAlign="left"
      textDecoration="underline"
      textDecorationColor="line"
      textUnderlineOffset="4px"
      _hover={{ color: "ink" }}
      {...props}
    />
  );
}

/** Something that can be taken, with what it means or costs below. */
export function Offer({
  label,
  told,
  ...props
}: HTMLChakraProps<"button"> & { label: string; told: string }) {
  return (
    <chakra.button
      type="button"
      textAlign="left"
      p="2.5"
      border="1.5px solid"
      borderColor="button"
      borderRadius="4px"
      cursor="pointer"
      _hover={{ borderColor: "accent", bg: "lane" }}
      _disabled={{ opacity: 0.65, cursor: "not-allowed" }}
      {...props}
    >
      <chakra.span display="block" fontWeight="600" fontSize="14px">
        {label}
      </chakra.span>
      <chakra.span display="block" fontSize="13px" color="inkSoft">
        {told}
      </chakra.span>
    </chakra.button>
  );
}

/** The end of a row of things of which one is chosen; below it what else can be done with one that is not. */
export function Choosing(props: {
  name: string;
  chosen: boolean;
  disabled?: boolean;
  onChoose: () => void;
  children?: ReactNode;
}) {
  const { name, chosen, disabled, onChoose, children } = props;
  if (chosen) return <chakra.span color="inkSoft">chosen</chakra.span>;
  return (
    <Flex direction="column" align="flex-end">
      <Action minH="8" aria-label={`Choose: ${name}`} disabled={disabled} onClick={onChoose}>
        Choose
      </Action>
      {!disabled && children}
    </Flex>
  );
}

/** How a choice in the corner of a page looks. */
export const corner = {
  bg: "transparent",
  color: "inkSoft",
  fontSize: "14px",
  cursor: "pointer",
  border: "1px solid",
  borderColor: "line",
  borderRadius: "6px",
  px: "2",
  minH: { base: "11", md: "7" },
  css: { "& option": { background: "var(--chakra-colors-card)", color: "var(--chakra-colors-ink)" } },
} as const;

/** A panel on the ground. */
export function Panel({ title, children, ...props }: { title?: string } & HTMLChakraProps<"section">) {
  return (
    <chakra.section bg="card" borderRadius="6px" p="4" aria-label={title} {...props}>
      {title && (
        <chakra.h2 fontSize="16px" fontWeight="700" pb="2" mb="1" borderBottom="1px solid" borderColor="line">
          {title}
        </chakra.h2>
      )}
      {children}
    </chakra.section>
  );
}

/** How far a long piece of work is. */
export function Progress({ done, total }: { done: number; total: number }) {
  return (
    <chakra.progress
      value={done}
      max={total}
      flex="1"
      minW="120px"
      height="10px"
      appearance="none"
      css={{
        "&::-webkit-progress-bar": { background: "var(--chakra-colors-lane)", borderRadius: "5px" },
        "&::-webkit-progress-value": { background: "var(--chakra-colors-accent)", borderRadius: "5px" },
        "&::-moz-progress-bar": { background: "var(--chakra-colors-accent)", borderRadius: "5px" },
      }}
      aria-label="Progress"
    />
  );
}

/** What a page says while it has nothing to show yet. */
export function Waiting({ children = "One moment …" }: { children?: ReactNode }) {
  return (
    <Flex as="main" minH="50vh" align="center" justify="center" color="inkSoft">
      {children}
    </Flex>
  );
}

/** A refusal, in the words of the job, beside what is wrong. */
export function Said({ children }: { children: ReactNode }) {
  return (
    <Flex role="alert" gap="2" align="center" color="fail" fontWeight="600" fontSize="14px">
      <StateMark severity="fix" />
      <Box as="span">{children}</Box>
    </Flex>
  );
}

/** A button for a thumb in the dark, and to be read from a few metres. */
export const Large = chakra("button", {
  base: {
    minH: "14",
    px: { base: "4", md: "8" },
    fontSize: { base: "18px", md: "21px" },
    fontWeight: "700",
    border: "2px solid",
    borderColor: "ink",
    borderRadius: "6px",
    bg: "ground",
    color: "ink",
    cursor: "pointer",
    flex: { base: "1", md: "unset" },
    _disabled: { opacity: 0.6 },
  },
});

/** A link that stands out by its weight. */
export const Leads = chakra(Link, {
  base: { color: "ink", fontWeight: "700", _hover: { color: "accentText" } },
});

/** A box to tick, with its words; `of` names it to tests. */
export function Tick(props: {
  checked: boolean;
  onTick: (on: boolean) => void;
  of: string;
  children: ReactNode;
}) {
  const { checked, onTick, of, children } = props;
  return (
    <chakra.label
      display="inline-flex"
      gap="2"
      alignItems="center"
      minH={{ base: "11", md: "8" }}
      fontSize="14px"
    >
      <input
        type="checkbox"
        data-tick={of}
        checked={checked}
        onChange={(event) => onTick(event.target.checked)}
      />
      {children}
    </chakra.label>
  );
}
