/** A query's key and fetcher live together, here. */
import { infiniteQueryOptions, keepPreviousData, queryOptions } from "@tanstack/react-query";

import { call, post } from "./client";
import type {
  Account,
  CommandView,
  Comparison,
  CoordinateInfo,
  CrossingView,
  DaysOff,
  DeltaWindow,
  Destination,
  EditsView,
  EffortTable,
  EventWindow,
  Evidence,
  FileSides,
  FileWindow,
  Finding,
  FindingWindow,
  ForecastView,
  HorizonWindow,
  InTime,
  Job,
  KeptFilter,
  KeptWhatIf,
  KnowledgeWindow,
  LinksView,
  MappedFile,
  ModuleGraph,
  MoveView,
  PackageWindow,
  PartsPicture,
  PathView,
  PlaceWindow,
  PreflightCheck,
  ProofView,
  ProposedSlice,
  ReportView,
  RouteDetail,
  RunView,
  Session,
  SliceBasis,
  SourceText,
  StageStory,
  Step,
  StoredTeam,
  SuggestedMinutes,
  Token,
  Watch,
  WavesView,
  WhatIf,
  WorkGroups,
  WorkView,
} from "./types";

const slugged = (slug: string) => encodeURIComponent(slug);

/** Rows of a window that is asked for at once; the server gives at most 200. */
export const PAGE = 100;

/** What a screen filters by, as the address of a query; empty values are left out. */
export function asked(values: Record<string, string | number | null>): string {
  const kept = Object.entries(values).filter(([, value]) => value !== "" && value !== null);
  return kept.length ? `?${new URLSearchParams(kept.map(([name, value]) => [name, String(value)])).toString()}` : "";
}

export type StepFilter = { slug: string | null; whose: string; state: string; q: string; stage?: number; owner?: string };
export type FindingFilter = { show: string; where: string; within: string; q: string };

export type HorizonFilter = { q: string; order: string; group: string };
export const WHOLE: HorizonFilter = { q: "", order: "margin", group: "none" };

export const portfolioQuery = (filter: HorizonFilter, page = 0) =>
  queryOptions({
    queryKey: ["portfolio", filter, page],
    queryFn: () => call<HorizonWindow>(`/portfolio${asked({ ...filter, offset: page * PAGE, limit: PAGE })}`),
    placeholderData: keepPreviousData,
  });

export const workQuery = (filter: StepFilter, page = 0) =>
  queryOptions({ queryKey: ["work", filter, page], queryFn: () => call<WorkView>(`/work${asked({ ...filter, offset: page * PAGE, limit: PAGE })}`), placeholderData: keepPreviousData });

export const workGroupsQuery = (filter: StepFilter, by: string) =>
  queryOptions({ queryKey: ["work", "groups", by, filter], queryFn: () => call<WorkGroups>(`/step-groups${asked({ ...filter, by })}`), placeholderData: keepPreviousData });

export const editsQuery = (slug: string) => queryOptions({ queryKey: ["edits", slug], queryFn: () => call<EditsView>(`/applications/${slugged(slug)}/edits`) });

/** A file of one proposal; another proposal asks anew. */
export const editedFileQuery = (slug: string, at: string, path: string) =>
  queryOptions({ queryKey: ["edited-file", slug, at, path], queryFn: () => call<FileSides>(`/applications/${slugged(slug)}/edits/file${asked({ path })}`) });

export const reportsQuery = (slug: string) => queryOptions({ queryKey: ["proof", slug, "reports"], queryFn: () => call<ReportView[]>(`/applications/${slugged(slug)}/reports`) });

export const proofQuery = (slug: string) => queryOptions({ queryKey: ["proof", slug], queryFn: () => call<ProofView>(`/applications/${slugged(slug)}/proof`) });

/** What a gateway writes down is taken in with every look. */
export const crossingQuery = (slug: string) => queryOptions({ queryKey: ["crossing", slug], queryFn: () => call<CrossingView>(`/applications/${slugged(slug)}/crossing`), refetchInterval: 5_000 });

export const routeQuery = (slug: string, name: string) =>
  queryOptions({ queryKey: ["crossing", slug, "route", name], queryFn: () => call<RouteDetail>(`/applications/${slugged(slug)}/crossing/route${asked({ name })}`), refetchInterval: 5_000 });

export const partsQuery = (slug: string, name: string) =>
  queryOptions({ queryKey: ["crossing", slug, "parts", name], queryFn: () => call<PartsPicture>(`/applications/${slugged(slug)}/crossing/parts${asked({ name })}`) });

export const proposalsQuery = (slug: string, by: SliceBasis) =>
  queryOptions({ queryKey: ["crossing", slug, "proposals", by], queryFn: () => call<ProposedSlice[]>(`/applications/${slugged(slug)}/crossing/proposals${asked({ by })}`) });

/** A run never changes. */
export const runQuery = (slug: string, id: number) =>
  queryOptions({ queryKey: ["run", slug, id], queryFn: () => call<RunView>(`/applications/${slugged(slug)}/runs/${id}`), staleTime: Infinity });

export const preflightQuery = (slug: string, stage: number) =>
  queryOptions({ queryKey: ["preflight", slug, stage], queryFn: () => call<PreflightCheck[]>(`/applications/${slugged(slug)}/preflight${asked({ stage })}`), retry: false });

export const commandsQuery = (slug: string, module: string) =>
  queryOptions({ queryKey: ["commands", slug, module], queryFn: () => call<CommandView[]>(`/applications/${slugged(slug)}/commands${asked({ module })}`), retry: false });

export const stepQuery = (id: string) => queryOptions({ queryKey: ["step", id], queryFn: () => call<Step>(`/steps/${encodeURIComponent(id)}`), retry: false });
export const jobsQuery = queryOptions({ queryKey: ["jobs"], queryFn: () => call<Job[]>("/jobs") });
export const destinationsQuery = queryOptions({ queryKey: ["destinations"], queryFn: () => call<Destination[]>("/destinations") });
export const knowledgeQuery = (q: string, page = 0) =>
  queryOptions({ queryKey: ["knowledge", q, page], queryFn: () => call<KnowledgeWindow>(`/knowledge${asked({ q, offset: page * PAGE, limit: PAGE })}`), placeholderData: keepPreviousData });
export const coordinateQuery = (of: string) =>
  queryOptions({ queryKey: ["coordinate", of], queryFn: () => call<CoordinateInfo>(`/knowledge/coordinate${asked({ of })}`), enabled: of !== "", retry: false });
export const effortQuery = queryOptions({ queryKey: ["effort"], queryFn: () => call<EffortTable>("/knowledge/effort") });

export const evidenceQuery = (slug: string) =>
  queryOptions({ queryKey: ["evidence", slug], queryFn: () => call<Evidence>(`/applications/${slugged(slug)}/evidence`) });

export const findingsQuery = (slug: string, scan: number, filter: FindingFilter, page = 0) =>
  queryOptions({
    queryKey: ["findings", slug, scan, filter, page],
    queryFn: () => call<FindingWindow>(`/applications/${slugged(slug)}/findings${asked({ ...filter, offset: page * PAGE, limit: PAGE })}`),
    placeholderData: keepPreviousData,
  });

/** Where a finding stands among those that fit: the window of one that begins with it. */
export const findingPositionQuery = (slug: string, scan: number, filter: FindingFilter, key: string) =>
  queryOptions({
    queryKey: ["position", slug, scan, filter, key],
    queryFn: () => call<FindingWindow>(`/applications/${slugged(slug)}/findings${asked({ ...filter, around: key, limit: 1 })}`),
  });

export const findingQuery = (slug: string, scan: number, filter: FindingFilter, key: string) =>
  queryOptions({
    queryKey: ["finding", slug, scan, filter, key],
    queryFn: () => call<Finding>(`/applications/${slugged(slug)}/findings/${encodeURIComponent(key)}${asked({ where: filter.where, within: filter.within })}`),
    placeholderData: keepPreviousData,
    retry: false,
  });

const FILES = 15;

export const placesQuery = (slug: string, scan: number, filter: FindingFilter) =>
  infiniteQueryOptions({
    queryKey: ["places", slug, scan, filter],
    queryFn: ({ pageParam }) => call<PlaceWindow>(`/applications/${slugged(slug)}/places${asked({ ...filter, offset: pageParam, limit: FILES })}`),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.offset + last.rows.length < last.total ? last.offset + last.rows.length : undefined),
    placeholderData: keepPreviousData,
  });

export const filesQuery = (slug: string, scan: number, text: string) =>
  infiniteQueryOptions({
    queryKey: ["files", slug, scan, text],
    queryFn: ({ pageParam }) => call<FileWindow>(`/applications/${slugged(slug)}/files${asked({ q: text, offset: pageParam, limit: PAGE })}`),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.offset + last.rows.length < last.total ? last.offset + last.rows.length : undefined),
    placeholderData: keepPreviousData,
  });

export const mapQuery = (slug: string, scan: number, within: string) =>
  queryOptions({ queryKey: ["map", slug, scan, within], queryFn: () => call<MappedFile[]>(`/applications/${slugged(slug)}/map${asked({ within })}`), placeholderData: keepPreviousData });

export const pathQuery = (slug: string, query = "") =>
  queryOptions({ queryKey: ["path", slug, query], queryFn: () => call<PathView>(`/applications/${slugged(slug)}/path${query ? `?${query}` : ""}`), retry: false });

export const sourceQuery = (slug: string, file: string, scannedAt: string) =>
  queryOptions({
    queryKey: ["source", slug, file, scannedAt],
    queryFn: () => call<SourceText>(`/applications/${slugged(slug)}/source?file=${encodeURIComponent(file)}`),
    staleTime: Infinity,
  });

export const packagesQuery = (slug: string, scannedAt: string, q: string) =>
  infiniteQueryOptions({
    queryKey: ["packages", slug, scannedAt, q],
    queryFn: ({ pageParam }) => call<PackageWindow>(`/applications/${slugged(slug)}/packages${asked({ q, offset: pageParam, limit: PAGE })}`),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.offset + last.rows.length < last.total ? last.offset + last.rows.length : undefined),
    placeholderData: keepPreviousData,
  });

export const graphQuery = (slug: string, scannedAt: string) =>
  queryOptions({ queryKey: ["graph", slug, scannedAt], queryFn: () => call<ModuleGraph>(`/applications/${slugged(slug)}/graph`) });

export const deltaQuery = (slug: string, coordinate: string, scannedAt: string, q: string, page = 0) =>
  queryOptions({
    queryKey: ["delta", slug, coordinate, scannedAt, q, page],
    queryFn: () => call<DeltaWindow>(`/applications/${slugged(slug)}/delta${asked({ coordinate, q, offset: page * PAGE, limit: PAGE })}`),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const keptQuery = (screen: string) => queryOptions({ queryKey: ["kept", screen], queryFn: () => call<KeptFilter[]>(`/views/${screen}`) });

export const sessionQuery = queryOptions({ queryKey: ["session"], queryFn: () => call<Session>("/session"), staleTime: 60_000 });
export const accountsQuery = queryOptions({ queryKey: ["accounts"], queryFn: () => call<Account[]>("/accounts") });
export const tokensQuery = queryOptions({ queryKey: ["tokens"], queryFn: () => call<Token[]>("/tokens") });

export type EventFilter = { who: string; slug: string; since: string; until: string; q: string };

export const eventsQuery = (filter: EventFilter) =>
  infiniteQueryOptions({
    queryKey: ["events", filter],
    queryFn: ({ pageParam }) => call<EventWindow>(`/events${asked({ ...filter, offset: pageParam, limit: PAGE })}`),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.offset + last.rows.length < last.total ? last.offset + last.rows.length : undefined),
    placeholderData: keepPreviousData,
  });

/** While a better plan is looked for, the answer is asked for again. */
export const wavesQuery = queryOptions({
  queryKey: ["waves"],
  queryFn: () => call<WavesView>("/waves"),
  refetchInterval: (query) => (query.state.data?.working ? 5_000 : false),
});
export const storyQuery = (stage: string, mark: string) =>
  queryOptions({ queryKey: ["waves", "story", stage, mark], queryFn: () => call<StageStory>(`/waves/story${asked({ stage })}`), retry: false });
export const forecastQuery = queryOptions({ queryKey: ["waves", "forecast"], queryFn: () => call<ForecastView>("/forecast") });
export const linksQuery = queryOptions({ queryKey: ["waves", "links"], queryFn: () => call<LinksView>("/portfolio/links") });
export const teamsQuery = queryOptions({ queryKey: ["waves", "teams"], queryFn: () => call<StoredTeam[]>("/teams") });
export const daysOffQuery = queryOptions({ queryKey: ["waves", "days-off"], queryFn: () => call<DaysOff[]>("/days-off") });
export const whatIfsQuery = queryOptions({ queryKey: ["waves", "what-ifs"], queryFn: () => call<KeptWhatIf[]>("/what-ifs") });

/** What would come of putting a stage on a day. */
export const moveQuery = (stage: string, begins: string, mark: string) =>
  queryOptions({ queryKey: ["waves", "move", stage, begins, mark], queryFn: () => post<MoveView>("/waves/look", { stage, begins }), placeholderData: keepPreviousData, retry: false });

/** The plan there is beside what would be. */
export const compareQuery = (changes: WhatIf, mark: string) =>
  queryOptions({ queryKey: ["waves", "compare", changes, mark], queryFn: () => post<Comparison>("/waves/what-if", changes), placeholderData: keepPreviousData, retry: false });

export const watchQuery = queryOptions({ queryKey: ["watch"], queryFn: () => call<Watch>("/watch") });
export const inTimeQuery = (slug: string) => queryOptions({ queryKey: ["in-time", slug], queryFn: () => call<InTime>(`/applications/${slugged(slug)}/in-time`) });
export const suggestedQuery = (step: number) =>
  queryOptions({ queryKey: ["step", String(step), "suggested"], queryFn: () => call<SuggestedMinutes>(`/steps/${step}/suggested-minutes`), retry: false });
