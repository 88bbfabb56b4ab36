import type { ReactNode } from "react";
import { useId } from "react";

/** Heading with a quiet remark at its right. */
export function Head({ children, remark, level = 2 }: { children: ReactNode; remark?: ReactNode; level?: 2 | 3 }) {
  const Tag = level === 2 ? "h2" : "h3";
  return (
    <div className="flex items-baseline justify-between gap-3 border-b hairline pb-1">
      <Tag className="text-body">{children}</Tag>
      {remark && <span className="text-fine text-faint">{remark}</span>}
    </div>
  );
}

type Choice = { value: string; words: string };

/** A labelled list to choose from. */
export function Select(props: {
  label: string;
  value: string;
  choices: readonly Choice[];
  onChange: (value: string) => void;
  compact?: boolean;
  empty?: string;
  wide?: boolean;
}) {
  const id = useId();
  return (
    <div className={props.compact ? "" : "flex flex-col gap-0.5"}>
      <label htmlFor={id} className={props.compact ? "sr-only" : "text-fine text-faint"}>
        {props.label}
      </label>
      <select
        id={id}
        className={`select select-sm ${props.wide ? "w-full" : "w-auto"} max-w-full overflow-hidden text-ellipsis`}
        value={props.value}
        onChange={(e) => props.onChange(e.target.value)}
      >
        {props.empty !== undefined && <option value="">{props.empty}</option>}
        {props.choices.map((c) => (
          <option key={c.value} value={c.value}>
            {c.words}
          </option>
        ))}
      </select>
    </div>
  );
}

/** A labelled line of text. */
export function TextField(props: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  compact?: boolean;
  wide?: boolean;
}) {
  const id = useId();
  return (
    <div className={props.compact ? "" : "flex flex-col gap-0.5"}>
      <label htmlFor={id} className={props.compact ? "sr-only" : "text-fine text-faint"}>
        {props.label}
      </label>
      <input
        id={id}
        className={`input input-sm ${props.wide ? "w-full" : "w-52"}`}
        value={props.value}
        onChange={(e) => props.onChange(e.target.value)}
      />
    </div>
  );
}

/** A row of choices of which one holds. */
export function Segments<T extends string>(props: {
  label: string;
  value: T;
  choices: readonly { value: T; words: string }[];
  onChange: (value: T) => void;
}) {
  return (
    <fieldset className="flex flex-wrap gap-y-1" aria-label={props.label}>
      {props.choices.map((c) => (
        <button
          key={c.value}
          type="button"
          aria-pressed={c.value === props.value}
          onClick={() => props.onChange(c.value)}
          className={`-ml-px cursor-pointer border px-2 py-0.5 text-small first:ml-0 first:rounded-l-md last:rounded-r-md ${
            c.value === props.value ? "border-base-content bg-base-content font-semibold text-base-100" : "border-current/40"
          }`}
        >
          {c.words}
        </button>
      ))}
    </fieldset>
  );
}

/** What is not known yet is said to be so: never as none. */
export const Working = ({ words = "Being worked out …" }: { words?: string }) => (
  <p className="text-small text-faint" data-working="yes">
    {words}
  </p>
);

/** A plain message where there is nothing yet: what to do next. */
export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="mx-auto max-w-md rounded-box border border-dashed hairline bg-paper p-6 text-center">
      <h2 className="mb-2 text-lead">{title}</h2>
      <div className="flex flex-col items-center gap-3 text-body">{children}</div>
    </div>
  );
}

export function Button(props: {
  children: ReactNode;
  onClick?: () => void;
  strong?: boolean;
  small?: boolean;
  disabled?: boolean;
  title?: string;
}) {
  return (
    <button
      type="button"
      title={props.title}
      disabled={props.disabled}
      onClick={props.onClick}
      className={`btn ${props.small ? "btn-xs text-fine" : "btn-sm"} ${props.strong ? "btn-primary" : "btn-outline"}`}
    >
      {props.children}
    </button>
  );
}
