/** The product's mark: three strokes of air, and its name. */
export function Mark({ large, short }: { large?: boolean; short?: boolean }) {
  return (
    <span className={`wide flex items-center gap-2 ${large ? "text-figure" : "text-lead"}`}>
      <svg viewBox="0 0 32 32" className={large ? "size-9" : "size-6"} aria-hidden="true">
        <g stroke="currentColor" strokeWidth="3.200" strokeLinecap="round">
          <path d="M7 11 23 6" />
          <path d="M6 18.500 27 12" />
          <path d="M10 25.500 25 20.800" />
        </g>
      </svg>
      {short ? null : "oventa"}
    </span>
  );
}
