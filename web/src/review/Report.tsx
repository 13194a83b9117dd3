import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api, type Schemas, told } from "../api/client";
import { Lost } from "../app/Lost";
import { Leads, MARK_OF_TONE, Panel, type Severity, StateMark, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";

const OF_LEVEL: Record<Schemas["GoVerdict"]["level"], Severity> = { go: "good", mind: "mind", stop: "stop" };

/** The morning after: what became of the night in ten lines, what to do before the next, and the details. */
export default function Report() {
  const { id = "" } = useParams();
  const report = useQuery({
    queryKey: ["report", id],
    queryFn: () => told(api.GET("/api/runs/{id}/report", { params: { path: { id } } })),
  });
  if (report.error) return <Lost what="There is no such run." error={report.error} />;
  if (!report.data) return <Waiting />;
  const { name, under, lines, todo, missed, otherwise, verdicts, notes } = report.data;
  return (
    <Shell
      tab={`${name}, the morning after`}
      title={
        <>
          <b>{name}</b> · the morning after
        </>
      }
      sub={under}
    >
      <Grid templateColumns={{ base: "1fr", lg: "1.4fr 1fr" }} gap="5" alignItems="start">
        <Panel title="What became of it" data-testid="ten-lines">
          {lines.map((line) => (
            <Flex
              key={line.label}
              gap="3"
              align="baseline"
              py="1.5"
              borderBottom="1px solid"
              borderColor="line"
            >
              <StateMark severity={MARK_OF_TONE[line.tone ?? "good"]} />
              <chakra.span color="inkSoft" flex="0 0 92px">
                {line.label}
              </chakra.span>
              <span>{line.text}</span>
            </Flex>
          ))}
        </Panel>
        <Panel title="Before the next time" data-testid="to-do">
          {todo.length === 0 && <Box>Nothing: the same again works as it stands.</Box>}
          {todo.map((text) => (
            <chakra.label
              key={text}
              display="flex"
              gap="3"
              alignItems="baseline"
              minH={{ base: "11", md: "8" }}
            >
              <input type="checkbox" />
              <span>{text}</span>
            </chakra.label>
          ))}
          <Flex gap="5" mt="3" wrap="wrap">
            <Leads
              to={`/api/runs/${id}/report.pdf`}
              reloadDocument
              download
              fontSize="14px"
              data-testid="pdf"
            >
              As PDF
            </Leads>
            <Leads to={`/runs/${id}/review`} fontSize="14px">
              Frames and film
            </Leads>
          </Flex>
        </Panel>
      </Grid>
      {verdicts.length > 0 && (
        <Panel title="Looked at on the way" mt="5">
          {verdicts.map((one) => (
            <Flex key={one.after} gap="3" align="baseline" py="0.5">
              <StateMark severity={OF_LEVEL[one.level]} />
              <chakra.span className="figure" flex="0 0 92px">
                frame {one.after.toLocaleString("en")}
              </chakra.span>
              <span>{one.told}</span>
            </Flex>
          ))}
        </Panel>
      )}
      <Rows title="Missed" rows={missed} />
      <Rows title="Came otherwise than planned" rows={otherwise} />
      {notes.length > 0 && (
        <Panel title="Noted by the runner" mt="5">
          {notes.map((note) => (
            <Box key={note}>{note}</Box>
          ))}
        </Panel>
      )}
    </Shell>
  );
}

function Rows({ title, rows }: { title: string; rows: Schemas["ReportRow"][] }) {
  if (rows.length === 0) return null;
  return (
    <Panel title={title} mt="5" data-testid="report-rows">
      {rows.map((row) => (
        <Flex key={`${row.frames} ${row.clock}`} gap="3" align="baseline" py="0.5" wrap="wrap">
          <chakra.b className="figure">{row.frames}</chakra.b>
          <chakra.span className="figure" color="inkSoft">
            {row.clock}
          </chakra.span>
          <span>{row.told}</span>
        </Flex>
      ))}
    </Panel>
  );
}
