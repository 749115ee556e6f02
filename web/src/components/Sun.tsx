/** The sign for progress: a sun against a horizon line; dotted when too little is known. */
type Props = { share: number | null; known?: number; size?: number };

export function Sun({ share, known = 1, size = 26 }: Props) {
  const dotted = share === null || known < 0.8;
  const risen = share ?? 0;
  const centre = 11.5 - risen * 4.5 + 3.2 * (1 - risen);
  const label = share === null ? "not known" : `${Math.floor(risen * 100)} % known to hold${dotted ? `, ${Math.floor(known * 100)} % known` : ""}`;
  return (
    <svg viewBox="0 0 16 16" width={size} height={size} role="img" aria-label={label}>
      <clipPath id={`above-${Math.round(risen * 100)}`}>
        <rect x="0" y="0" width="16" height="11.5" />
      </clipPath>
      <circle
        cx="8"
        cy={centre}
        r="4.2"
        clipPath={`url(#above-${Math.round(risen * 100)})`}
        fill={dotted ? "none" : "var(--amber)"}
        stroke={dotted ? "var(--ink2)" : "none"}
        strokeDasharray="1.2 1.4"
        strokeWidth="1"
      />
      <path d="M1 11.9H15" stroke="var(--ink)" strokeWidth="1.2" strokeDasharray={share === null ? "1.2 1.4" : undefined} />
      {!dotted && risen >= 0.9999 && <path d="M8 0.3V1.6M2.6 2.2l.9.9M13.4 2.2l-.9.9M.9 7h1.3M13.8 7h1.3" stroke="var(--amber)" strokeWidth="1.2" />}
    </svg>
  );
}
