import type { ComponentProps } from "react";

type Kind = "ink" | "plain" | "danger" | "link";

const LOOK: Record<Kind, string> = {
  ink: "border border-graphite bg-graphite text-sheet px-2.5 py-1 rounded font-semibold enabled:hover:bg-[#3a3e44]",
  plain: "border border-graphite bg-sheet px-2.5 py-1 rounded font-semibold enabled:hover:bg-paper",
  danger:
    "border border-red-pencil text-red-pencil bg-sheet px-2.5 py-1 rounded font-semibold enabled:hover:bg-paper",
  link: "link",
};

export function Button({
  kind = "plain",
  className = "",
  ...rest
}: ComponentProps<"button"> & { kind?: Kind }) {
  return (
    <button
      type="button"
      className={`${LOOK[kind]} whitespace-nowrap disabled:border-hair disabled:bg-paper disabled:text-pencil ${className}`}
      {...rest}
    />
  );
}
