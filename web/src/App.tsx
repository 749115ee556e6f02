import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { matchPath, Route, Routes, useLocation, useNavigate } from "react-router";

import { KeysHelp } from "./components/KeysHelp";
import { Palette } from "./components/Palette";
import { Empty, Waiting } from "./components/States";
import { TopBar } from "./components/TopBar";
import { useJobStream } from "./lib/jobs";
import { useKeys } from "./lib/keys";

const Horizon = lazy(() => import("./screens/horizon/Horizon"));
const EvidenceScreen = lazy(() => import("./screens/evidence/EvidenceScreen"));
const PathScreen = lazy(() => import("./screens/path/PathScreen"));
const WorkScreen = lazy(() => import("./screens/work/WorkScreen"));
const Intake = lazy(() => import("./screens/intake/Intake"));
const ReportScreen = lazy(() => import("./screens/report/ReportScreen"));
const KnowledgeScreen = lazy(() => import("./screens/knowledge/KnowledgeScreen"));

function startTheme(): string {
  const kept = localStorage.getItem("yoake.theme");
  return kept ?? (window.matchMedia("(prefers-color-scheme: dark)").matches ? "night" : "day");
}

export function App() {
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
    document.documentElement.dataset.theme = theme;
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
            <Route path="/work" element={<WorkScreen />} />
            <Route path="/applications/:slug/work" element={<WorkScreen />} />
            <Route path="/take-in" element={<Intake />} />
            <Route path="/report" element={<ReportScreen />} />
            <Route path="/knowledge" element={<KnowledgeScreen />} />
            <Route path="*" element={<Empty alone title="There is no such page.">The address may be old. The Horizon lists every application.</Empty>} />
          </Routes>
        </Suspense>
      </main>
      {palette && <Palette close={() => setPalette(false)} slug={slug} turnTheme={turnTheme} showKeys={() => setKeys(true)} />}
      {keys && <KeysHelp close={() => setKeys(false)} />}
    </>
  );
}
