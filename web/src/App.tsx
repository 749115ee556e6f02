import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { matchPath, Navigate, Route, Routes, useLocation, useNavigate } from "react-router";

import { sessionQuery } from "./api/queries";
import { KeysHelp } from "./components/KeysHelp";
import { Palette } from "./components/Palette";
import { Empty, Failed, Waiting } from "./components/States";
import { TopBar } from "./components/TopBar";
import { useJobStream } from "./lib/jobs";
import { useKeys } from "./lib/keys";
import { SignIn } from "./screens/people/SignIn";

const Horizon = lazy(() => import("./screens/horizon/Horizon"));
const EvidenceScreen = lazy(() => import("./screens/evidence/EvidenceScreen"));
const PathScreen = lazy(() => import("./screens/path/PathScreen"));
const EditsScreen = lazy(() => import("./screens/edits/EditsScreen"));
const ProofScreen = lazy(() => import("./screens/proof/ProofScreen"));
const CrossingScreen = lazy(() => import("./screens/crossing/CrossingScreen"));
const WorkScreen = lazy(() => import("./screens/work/WorkScreen"));
const WavesScreen = lazy(() => import("./screens/waves/WavesScreen"));
const ForecastScreen = lazy(() => import("./screens/waves/ForecastScreen"));
const LinksScreen = lazy(() => import("./screens/waves/LinksScreen"));
const TeamsScreen = lazy(() => import("./screens/waves/TeamsScreen"));
const Intake = lazy(() => import("./screens/intake/Intake"));
const ReportScreen = lazy(() => import("./screens/report/ReportScreen"));
const PeopleScreen = lazy(() => import("./screens/people/PeopleScreen"));
const EventsScreen = lazy(() => import("./screens/people/EventsScreen"));
const KnowledgeScreen = lazy(() => import("./screens/knowledge/KnowledgeScreen"));

function startTheme(): string {
  const kept = localStorage.getItem("yoake.theme");
  return kept ?? (window.matchMedia("(prefers-color-scheme: dark)").matches ? "night" : "day");
}

function wear(theme: string): void {
  document.documentElement.dataset.theme = theme;
}

/** The screens, once it is known who is here. */
export function App() {
  const session = useQuery(sessionQuery);
  useEffect(() => wear(startTheme()), []);
  if (session.isPending) return <Waiting what="who you are" />;
  if (session.isError) return <Failed error={session.error} again={() => void session.refetch()} />;
  return session.data.signed_in ? <Screens /> : <SignIn session={session.data} />;
}

function Screens() {
  const [theme, setTheme] = useState(startTheme);
  const [palette, setPalette] = useState(false);
  const [keys, setKeys] = useState(false);
  const location = useLocation();
  const go = useNavigate();
  const lastG = useRef(0);
  const slug = matchPath("/applications/:slug/*", location.pathname)?.params.slug ?? null;
  const turnTheme = () => setTheme((before) => (before === "day" ? "night" : "day"));
  useJobStream();
  useEffect(() => {
    wear(theme);
    localStorage.setItem("yoake.theme", theme);
  }, [theme]);
  const afterG = (to: string) => () => {
    if (performance.now() - lastG.current < 900) void go(to);
  };
  useKeys({
    "mod+k": (event) => {
      event.preventDefault();
      setPalette(true);
    },
    "?": () => setKeys(true),
    t: turnTheme,
    g: () => {
      lastG.current = performance.now();
    },
    h: afterG("/"),
    w: afterG("/work"),
    v: afterG("/waves"),
  });
  return (
    <>
      <TopBar openPalette={() => setPalette(true)} theme={theme} turnTheme={turnTheme} />
      <main>
        <Suspense fallback={<Waiting what="the screen" />}>
          <Routes>
            <Route path="/" element={<Horizon />} />
            <Route path="/applications/:slug" element={<EvidenceScreen />} />
            <Route path="/applications/:slug/path" element={<PathScreen />} />
            <Route path="/applications/:slug/edits" element={<EditsScreen />} />
            <Route path="/applications/:slug/proof" element={<ProofScreen />} />
            <Route path="/applications/:slug/crossing" element={<CrossingScreen />} />
            <Route path="/work" element={<WorkScreen />} />
            <Route path="/applications/:slug/work" element={<WorkScreen />} />
            <Route path="/waves" element={<WavesScreen />} />
            <Route path="/waves/forecast" element={<ForecastScreen />} />
            <Route path="/waves/links" element={<LinksScreen />} />
            <Route path="/waves/teams" element={<TeamsScreen />} />
            <Route path="/take-in" element={<Intake />} />
            <Route path="/report" element={<ReportScreen />} />
            <Route path="/knowledge" element={<KnowledgeScreen />} />
            <Route path="/people" element={<PeopleScreen />} />
            <Route path="/events" element={<EventsScreen />} />
            <Route path="/first" element={<Navigate to="/" replace />} />
            <Route path="*" element={<Empty alone title="There is no such page.">The address may be old. The Horizon lists every application.</Empty>} />
          </Routes>
        </Suspense>
      </main>
      {palette && <Palette close={() => setPalette(false)} slug={slug} turnTheme={turnTheme} showKeys={() => setKeys(true)} />}
      {keys && <KeysHelp close={() => setKeys(false)} />}
    </>
  );
}
