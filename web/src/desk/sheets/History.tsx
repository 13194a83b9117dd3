import { Box, chakra, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { api, type Shot, told } from "../../api/client";
import { Action, Said } from "../../app/parts";
import { Sheet } from "./Sheet";

/** What a shot was before: each version, what the next save changed in words, and the way back. */
export function History(props: {
  id: string;
  open: boolean;
  onClose: () => void;
  onTake: (shot: Shot) => void;
}) {
  const { id, open, onClose, onTake } = props;
  const history = useQuery({
    queryKey: ["history", id],
    queryFn: () => told(api.GET("/api/shots/{id}/history", { params: { path: { id } } })),
    enabled: open,
    staleTime: 0,
  });
  return (
    <Sheet title="What it was before" open={open} onClose={onClose} width="640px" testId="history">
      {history.error && <Said>{history.error.message}</Said>}
      {history.data?.length === 0 && (
        <chakra.p color="inkSoft">It has not been changed since it was saved.</chakra.p>
      )}
      <Box maxH="60vh" overflowY="auto">
        {history.data?.map((one) => (
          <Flex key={one.version} gap="3" py="2" borderBottom="1px solid" borderColor="line" align="baseline">
            <chakra.span className="figure" fontSize="14px" color="inkSoft" whiteSpace="nowrap">
              {one.saved_at.slice(0, 16).replace("T", " ")}
            </chakra.span>
            <chakra.span fontSize="14px">
              {one.changed.length ? `Then: ${one.changed.join("; ")}.` : "Then nothing that is told."}
            </chakra.span>
            <Action
              ml="auto"
              minH="8"
              flexShrink={0}
              aria-label={`Bring back version ${one.version}`}
              onClick={() => {
                onTake(one.shot);
                onClose();
              }}
            >
              Bring it back
            </Action>
          </Flex>
        ))}
      </Box>
    </Sheet>
  );
}
