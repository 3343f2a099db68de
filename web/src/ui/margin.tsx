/** The margin: Because, for whatever is selected. It folds away with M. */
import { type ReactNode, useEffect, useState } from "react";
import { isTyping } from "./keys";

export function useFolded(): [boolean, (folded: boolean) => void] {
	const [folded, setFolded] = useState(() => localStorage.getItem("margin") === "folded");
	useEffect(() => {
		localStorage.setItem("margin", folded ? "folded" : "open");
	}, [folded]);
	useEffect(() => {
		const onKey = (event: KeyboardEvent) => {
			if (event.key === "m" && !isTyping(event) && !event.ctrlKey && !event.metaKey) setFolded((was) => !was);
		};
		addEventListener("keydown", onKey);
		return () => removeEventListener("keydown", onKey);
	}, []);
	return [folded, setFolded];
}

export function Margin({ width = 272, children }: { width?: number; children: ReactNode }) {
	const [folded, setFolded] = useFolded();
	if (folded)
		return (
			<aside aria-label="Because" className="w-8 flex-none border-l border-hair bg-raised pt-3 text-center">
				<button
					type="button"
					className="button-plain"
					aria-label="Open the margin (M)"
					onClick={() => setFolded(false)}
				>
					‹
				</button>
			</aside>
		);
	return (
		<aside
			aria-label="Because"
			style={{ width }}
			className="relative flex-none overflow-y-auto border-l border-hair bg-raised px-4.5 pt-4.5 pb-6"
		>
			<button
				type="button"
				className="absolute top-3 right-3 h-6 w-6 text-soft hover:text-indigo"
				aria-label="Fold the margin (M)"
				onClick={() => setFolded(true)}
			>
				›
			</button>
			{children}
		</aside>
	);
}

export function MarginHead({
	kind,
	title,
	mono = false,
}: {
	kind: string;
	title: ReactNode;
	mono?: boolean;
}) {
	return (
		<>
			<div className="label-small">{kind}</div>
			<h2
				className={`mt-px mb-2.5 pr-5 text-[15px] leading-snug font-bold break-words ${mono ? "font-mono text-[13px]" : ""}`}
			>
				{title}
			</h2>
		</>
	);
}

export function Facts({ rows }: { rows: [string, ReactNode][] }) {
	return (
		<dl className="mb-3 grid grid-cols-[auto_1fr]">
			{rows.map(([term, value]) => (
				<div
					key={term}
					className="col-span-2 grid grid-cols-subgrid gap-x-2.5 border-b border-hair/60 py-[3px]"
				>
					<dt className="text-soft">{term}</dt>
					<dd className="min-w-0 break-words">{value}</dd>
				</div>
			))}
		</dl>
	);
}
