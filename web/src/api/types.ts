/** Short names for the types that the server's description gives. */
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Row = Schemas["ApplicationRow"];
export type Lane = Schemas["Lane"];
export type StageSpan = Schemas["StageSpan"];
export type Portfolio = Schemas["Portfolio"];
export type Evidence = Schemas["Evidence"];
export type Finding = Schemas["FindingView"];
export type Place = Schemas["PlaceView"];
export type WindowView = Schemas["WindowView"];
export type Package = Schemas["PackageView"];
export type FileView = Schemas["FileView"];
export type PathView = Schemas["PathView"];
export type Stage = Schemas["StageView"];
export type Step = Schemas["StepView"];
export type Job = Schemas["JobView"];
export type Candidate = Schemas["Candidate"];
export type Preview = Schemas["Preview"];
export type Taken = Schemas["Taken"];
export type Destination = Schemas["DestinationInfo"];
export type CoordinateInfo = Schemas["CoordinateInfo"];
export type SourceText = Schemas["SourceText"];
export type JobsAsked = Schemas["JobsAsked"];
export type EffortTable = Schemas["EffortTable"];
