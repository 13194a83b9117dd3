import { useQuery } from "@tanstack/react-query";
import { api, type Shot, told } from "../../api/client";
import { Said } from "../../app/parts";
import { Versions } from "../../app/Versions";
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
      <Versions
        rows={history.data}
        onTake={(one) => {
          onTake(one.shot);
          onClose();
        }}
      />
    </Sheet>
  );
}
