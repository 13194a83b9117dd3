import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, told } from "../api/client";

export type Form = Schemas["Form"];
export type FormField = Schemas["FormField"];
export type Document = Record<string, unknown>;

/** A record as it is stored, with its values as they stand in its form. */
export interface Saved {
  id: string;
  version: number;
  archived: boolean;
  document: Document;
  saved_at?: string | null;
  shown?: Record<string, string>;
  summary?: string;
  measured?: string[];
  /** Fields that nobody filled in; what stands there is assumed. */
  assumed?: string[];
}

/** How each kind of record is listed and edited. */
export const useForms = () =>
  useQuery({
    queryKey: ["forms"],
    queryFn: () => told(api.GET("/api/forms")),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** The document that a form stands for: the server reads what was typed. Refused where it cannot be used. */
export const readForm = (kind: string, document: Document, typed: Record<string, string>) =>
  told(api.POST("/api/forms/{kind}", { params: { path: { kind } }, body: { document, typed } }));

/** A document without what is only assumed of it. */
export const asked = (saved: Saved): Document =>
  Object.fromEntries(Object.entries(saved.document).filter(([path]) => !saved.assumed?.includes(path)));
