/** A query's key and fetcher live together, here. */
import { queryOptions } from "@tanstack/react-query";

import { call } from "./client";
import type { CoordinateInfo, Delta, Destination, EffortTable, Evidence, Job, KeptView, ModuleGraph, PackageGrid, PathView, Portfolio, SourceText, Step } from "./types";

const slugged = (slug: string) => encodeURIComponent(slug);

export const portfolioQuery = queryOptions({ queryKey: ["portfolio"], queryFn: () => call<Portfolio>("/portfolio") });
export const workQuery = queryOptions({ queryKey: ["work"], queryFn: () => call<Step[]>("/work") });
export const jobsQuery = queryOptions({ queryKey: ["jobs"], queryFn: () => call<Job[]>("/jobs") });
export const destinationsQuery = queryOptions({ queryKey: ["destinations"], queryFn: () => call<Destination[]>("/destinations") });
export const knowledgeQuery = queryOptions({ queryKey: ["knowledge"], queryFn: () => call<CoordinateInfo[]>("/knowledge") });
export const effortQuery = queryOptions({ queryKey: ["effort"], queryFn: () => call<EffortTable>("/knowledge/effort") });

export const evidenceQuery = (slug: string) =>
  queryOptions({ queryKey: ["evidence", slug], queryFn: () => call<Evidence>(`/applications/${slugged(slug)}/evidence`) });

export const pathQuery = (slug: string, query = "") =>
  queryOptions({ queryKey: ["path", slug, query], queryFn: () => call<PathView>(`/applications/${slugged(slug)}/path${query ? `?${query}` : ""}`), retry: false });

export const sourceQuery = (slug: string, file: string, scannedAt: string) =>
  queryOptions({
    queryKey: ["source", slug, file, scannedAt],
    queryFn: () => call<SourceText>(`/applications/${slugged(slug)}/source?file=${encodeURIComponent(file)}`),
    staleTime: Infinity,
  });

export const packagesQuery = (slug: string, scannedAt: string) =>
  queryOptions({ queryKey: ["packages", slug, scannedAt], queryFn: () => call<PackageGrid>(`/applications/${slugged(slug)}/packages`) });

export const graphQuery = (slug: string, scannedAt: string) =>
  queryOptions({ queryKey: ["graph", slug, scannedAt], queryFn: () => call<ModuleGraph>(`/applications/${slugged(slug)}/graph`) });

export const deltaQuery = (slug: string, coordinate: string, scannedAt: string) =>
  queryOptions({
    queryKey: ["delta", slug, coordinate, scannedAt],
    queryFn: () => call<Delta>(`/applications/${slugged(slug)}/delta?coordinate=${encodeURIComponent(coordinate)}`),
    retry: false,
  });

export const keptQuery = (screen: string) => queryOptions({ queryKey: ["kept", screen], queryFn: () => call<KeptView[]>(`/views/${screen}`) });
