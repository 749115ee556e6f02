/** Libraries of our own that serve several lines at once: from when on the new one, and until when the old ones are needed. */
import type { WavesView } from "../../api/types";
import { DAY, dateOf, day } from "../../lib/format";
import { at, type Scale } from "./geometry";
import { listed } from "./words";

export function BridgeLanes({ bridges, scale, label }: { bridges: WavesView["bridges"]; scale: Scale; label: number }) {
  if (bridges.length === 0) return null;
  return (
    <section aria-label="Libraries that serve several lines" className="border-b pt-2 pb-3 hair">
      {bridges.map((bridge) => {
        const left = bridge.since ? Math.max(at(scale, dateOf(bridge.since) + DAY), 0) : 0;
        const right = bridge.until ? Math.min(at(scale, dateOf(bridge.until) + DAY), scale.width) : scale.width;
        const words = `serves ${bridge.name} ${listed(bridge.lines)}`;
        return (
          <div key={bridge.slug + bridge.coordinate} className="grid items-center py-1" style={{ gridTemplateColumns: `${label}px 1fr` }}>
            <div className="min-w-0 pr-3 text-[14px]">
              <b className="block truncate" title={bridge.library}>
                {bridge.library}
              </b>
            </div>
            <div className="relative h-[26px]" title={`${words} for ${bridge.users.join(", ")}, from ${day(bridge.since)} until ${day(bridge.until)}`}>
              <span className="absolute inset-y-0 rounded-[3px] border border-dashed" style={{ left, width: Math.max(right - left, 4), borderColor: "var(--ink2)" }} />
              <span className="absolute text-[12.5px] leading-[26px] whitespace-nowrap" style={{ left: Math.min(left + 8, scale.width - 260) }}>
                <b>{words}</b> <span className="quiet">until {bridge.until ? day(bridge.until) : "someone leaves, on no known day"}</span>
              </span>
            </div>
          </div>
        );
      })}
    </section>
  );
}
