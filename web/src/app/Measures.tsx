import { chakra } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, told } from "../api/client";
import { corner } from "./parts";

const SYSTEMS = [
  ["metric", "Metric"],
  ["imperial", "Imperial"],
] as const;

/** Chooses, once for all pages, how lengths, temperatures and weights are shown. */
export function MeasuresChoice() {
  const queries = useQueryClient();
  const now = useQuery({ queryKey: ["measures"], queryFn: () => told(api.GET("/api/measures")) });
  const choose = useMutation({
    mutationFn: (system: Schemas["Measures"]["system"]) =>
      told(api.PUT("/api/measures", { body: { system } })),
    // Every page's words change with it.
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <chakra.select
      {...corner}
      aria-label="Measures"
      value={now.data?.system ?? "metric"}
      onChange={(event) => choose.mutate(event.target.value as Schemas["Measures"]["system"])}
    >
      {SYSTEMS.map(([value, name]) => (
        <option key={value} value={value}>
          {name}
        </option>
      ))}
    </chakra.select>
  );
}
