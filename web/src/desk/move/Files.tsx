import { Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, Refused, type Schemas, type Shot, told } from "../../api/client";
import { download } from "../../app/download";
import { Action, Said } from "../../app/parts";

/** Takes part of a shot from a file, and writes it out in every format that there is of it. */
export function Files(props: {
  about: Schemas["FormatRow"]["about"];
  /** What is taken from a file, on its button, the files that may be chosen, and the shot that it makes. */
  label: string;
  accept: string;
  testId: string;
  onRead: (shot: Shot, text: string) => Promise<Shot>;
  shotNow: () => Shot;
  onTake: (shot: Shot) => void;
}) {
  const { about, label, accept, testId, onRead, shotNow, onTake } = props;
  const input = useRef<HTMLInputElement>(null);
  const [said, setSaid] = useState("");
  const formats = useQuery({
    queryKey: ["formats"],
    queryFn: () => told(api.GET("/api/programs/formats")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const saying = async (act: () => Promise<void>) => {
    try {
      await act();
      setSaid("");
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setSaid(error.path ? `${error.path}: ${error.message}` : error.message);
    }
  };
  const read = (file: File) => saying(async () => onTake(await onRead(shotNow(), await file.text())));
  const write = ({ name, ending }: Schemas["FormatRow"]) =>
    saying(async () => {
      const content = await told(
        api.POST("/api/programs/formats/{name}", {
          params: { path: { name } },
          body: shotNow(),
          parseAs: "blob",
        }),
      );
      download(content as Blob, `${shotNow().name}.${ending}`, "application/octet-stream");
    });
  return (
    <>
      <Flex gap="2" mt="2" wrap="wrap">
        <Action onClick={() => input.current?.click()}>{label}</Action>
        {formats.data
          ?.filter((format) => format.about === about)
          .map((format) => (
            <Action key={format.name} onClick={() => void write(format)}>
              {format.label}
            </Action>
          ))}
        <input
          ref={input}
          type="file"
          accept={accept}
          hidden
          data-testid={testId}
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) void read(file);
            event.target.value = "";
          }}
        />
      </Flex>
      {said && <Said>{said}</Said>}
    </>
  );
}
