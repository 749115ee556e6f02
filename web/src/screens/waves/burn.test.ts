import { describe, expect, it } from "vitest";

import { burn } from "./burn";

const ahead = [{ week: "2026-11-30", low: 10, middle: 10, high: 10 }, { week: "2026-12-07", low: 0, middle: 2, high: 6 }, { week: "2026-12-14", low: 0, middle: 0, high: 0 }];

describe("what is left over the weeks", () => {
  it("falls from today on the left to nothing on the right where nothing was kept", () => {
    const made = burn([{ made: "2026-11-30", value: 10 }], ahead, 200, 100);
    expect(made.middle).toBe("M0.0 4.0L100.0 80.8L200.0 100.0");
    expect(made.area).toBe("M0.0 4.0L100.0 42.4L200.0 100.0L200.0 100.0L100.0 100.0L0.0 4.0Z");
    expect([made.past, made.dotted]).toEqual(["", ""]);
    expect(made.labels.map((l) => l.text)).toEqual(["30 Nov ’26", "14 Dec ’26"]);
  });
  it("begins with what was kept, and says where today is", () => {
    const made = burn([{ made: "2026-11-16", value: 20 }, { made: "2026-11-30", value: 10 }], ahead, 400, 100);
    expect(made.past).toBe("M0.0 4.0L200.0 52.0");
    expect(made.today).toEqual({ x: 200, y: 52 });
    expect(made.middle.startsWith("M200.0 52.0L300.0 90.4")).toBe(true);
    expect(made.labels.map((l) => l.text)).toEqual(["16 Nov ’26", "today", "14 Dec ’26"]);
  });
  it("lays what is not known over the middle, and makes room for it", () => {
    const made = burn([{ made: "2026-11-30", value: 10 }], ahead, 200, 100, 0, 10);
    expect(made.dotted).toBe("M0.0 4.0L100.0 42.4L200.0 52.0");
    expect(made.middle).toBe("M0.0 52.0L100.0 90.4L200.0 100.0");
  });
  it("begins with today, not with this week's Monday", () => {
    const made = burn([{ made: "2026-12-03", value: 9 }], ahead, 110, 100);
    expect(made.middle).toBe("M0.0 4.0L40.0 78.7L110.0 100.0");
  });
  it("is nothing without points", () => expect(burn([], [], 10, 10).area).toBe(""));
});
