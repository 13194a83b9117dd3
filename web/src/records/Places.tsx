import { chakra, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { api, told } from "../api/client";
import { Panel, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";

/** The places where shots are taken. */
export default function Places() {
  const places = useQuery({ queryKey: ["places"], queryFn: () => told(api.GET("/api/places")) });
  if (!places.data) return <Waiting>{places.error?.message}</Waiting>;
  return (
    <Shell title={<b>Places</b>}>
      <Panel>
        {places.data.map(({ id, document: place }) => (
          <Flex key={id} py="2" gap="4" align="baseline" wrap="wrap">
            <b>{place.name}</b>
            <chakra.span className="figure" color="inkSoft" fontSize="14px">
              {place.latitude_deg.toFixed(3)}° {place.longitude_deg.toFixed(3)}° · {place.time_zone}
            </chakra.span>
            <chakra.span color="inkSoft">{place.note}</chakra.span>
          </Flex>
        ))}
      </Panel>
    </Shell>
  );
}
