/** By place: the map of the code. Area is lines, ink is work; a folder opens, a file is shown. */
import { useMemo } from "react";

import type { MappedFile } from "../../api/types";
import { plural } from "../../lib/format";
import { shade, tiles } from "./codeMap";

const WIDTH = 388;
const HEIGHT = 270;
const FILLS = { none: "var(--sheet)", little: "var(--amber)", some: "var(--rose)", much: "var(--dusk)" };
const INKS = { none: "var(--ink2)", little: "var(--on-light)", some: "var(--on-light)", much: "var(--on-night)" };

type Props = { files: MappedFile[]; within: string; enter: (folder: string) => void; current: string };

export function CodeMap({ files, within, enter, current }: Props) {
  const laid = useMemo(() => tiles(files, within, WIDTH, HEIGHT), [files, within]);
  const most = Math.max(...laid.filter((t) => !t.folder).map((t) => t.work), 1);
  const up = within.includes("/") ? within.slice(0, within.lastIndexOf("/")) : "";
  return (
    <figure className="border-b hair" aria-label="Map of the code">
      <figcaption className="quiet flex items-baseline gap-2 px-[22px] py-1 text-[12.5px]">
        <code className="min-w-0 truncate">{within || "everything"}</code>
        {within && (
          <button type="button" className="underline" onClick={() => enter(up)}>
            up
          </button>
        )}
        <span className="grow" />
        <span>area: lines · ink: places to change</span>
      </figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} width="100%" role="group">
        <defs>
          <pattern id="not-ours" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <path d="M0 0V5" stroke="var(--line)" strokeWidth="1.2" />
          </pattern>
        </defs>
        {laid.map((tile) => {
          const tone = shade(tile.work, most);
          const said = `${tile.path}: ${plural(tile.lines, "line")}, ${plural(tile.work, "place")} to change${tile.role === "source" ? "" : `, ${tile.role}`}`;
          const open = () => enter(tile.path);
          return (
            <g key={tile.path}>
              <rect
                role="button"
                tabIndex={tile.folder || tile.work ? 0 : -1}
                aria-label={said}
                className="cursor-pointer"
                onClick={open}
                onKeyDown={(e) => e.key === "Enter" && open()}
                x={tile.x}
                y={tile.y}
                width={tile.width}
                height={tile.height}
                fill={tile.folder ? "transparent" : FILLS[tone]}
                stroke={tile.path === current ? "var(--press)" : "var(--rule)"}
                strokeWidth={tile.path === current ? 2.5 : 1}
              >
                <title>{said}</title>
              </rect>
              {tile.role !== "source" && !tile.folder && <rect x={tile.x} y={tile.y} width={tile.width} height={tile.height} fill="url(#not-ours)" opacity="0.55" pointerEvents="none" />}
              {tile.width > 34 && tile.height > 13 && (
                <text aria-hidden="true" pointerEvents="none" x={tile.x + 4} y={tile.y + 11} fontSize="9.5" fontWeight={tile.folder ? 700 : 400} fill={tile.folder ? "var(--ink)" : INKS[tone]}>
                  {tile.name.slice(0, Math.floor(tile.width / 5.6))}
                </text>
              )}
              {!tile.folder && tile.work > 0 && tile.width > 26 && tile.height > 26 && (
                <text aria-hidden="true" pointerEvents="none" x={tile.x + 4} y={tile.y + 23} fontSize="10" fontWeight="700" fill={INKS[tone]}>
                  {tile.work}
                </text>
              )}
            </g>
          );
        })}
      </svg>
    </figure>
  );
}
