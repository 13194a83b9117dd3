import { useQuery } from "@tanstack/react-query";
import { api, told } from "../api/client";

/** What stands in for fields that are left empty, by kind of record and field, in words. */
export const useAssumed = () =>
  useQuery({
    queryKey: ["assumed"],
    queryFn: () => told(api.GET("/api/assumed")),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const NOTHING: Record<string, string> = {};
