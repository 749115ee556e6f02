/** All keys, on `?`. */
import { Dialog } from "./Dialog";

const KEYS = [
  ["?", "show this"],
  ["Ctrl K", "palette: every screen, application, finding and action"],
  ["/", "filter the list"],
  ["j  k", "walk down and up"],
  ["Enter", "open"],
  ["Esc", "return"],
  ["x", "select a row; Shift with a click selects a range"],
  ["n  p", "next and previous place of a finding"],
  ["g h  g v  g w", "go to the Horizon, to Waves, to Work"],
  ["← →", "move the chosen stage by a week, and see what slips (Waves)"],
  ["t", "switch the theme"],
] as const;

export function KeysHelp({ close }: { close: () => void }) {
  return (
    <Dialog title="Keyboard" close={close}>
      <dl className="grid grid-cols-[7rem_1fr] gap-y-2">
        {KEYS.map(([key, meaning]) => (
          <div key={key} className="contents">
            <dt>
              <kbd className="key">{key}</kbd>
            </dt>
            <dd>{meaning}</dd>
          </div>
        ))}
      </dl>
    </Dialog>
  );
}
