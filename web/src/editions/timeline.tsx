/** Time down the page: the draft on top, then every edition; one is open, and another may be held against it. */
import type { ReactNode } from "react";
import { clock, day, effectPhrases } from "../ui/words";
import type { Edition } from "./queries";

interface Props {
	editions: readonly Edition[];
	/** What the draft is for, in a word; nothing when it is what the newest edition is. */
	draft: string;
	state: string;
	/** The edition that is open; 0 is the draft. */
	open: number;
	against: number;
	onOpen: (number: number) => void;
	onAgainst: (number: number) => void;
	children?: ReactNode;
}

export function Timeline({ editions, draft, state, open, against, onOpen, onAgainst, children }: Props) {
	return (
		<nav
			aria-label="Editions"
			className="w-[210px] flex-none overflow-y-auto border-r border-hair py-4.5 pr-2 pl-5"
		>
			<h1 className="mb-3 text-[15px] font-bold">Editions</h1>
			<ol className="relative">
				<span aria-hidden="true" className="absolute top-3 bottom-6 left-[6px] w-[3px] bg-walnut" />
				<Mark
					now={open === 0}
					shape={draft ? "hatched-solid border-weld" : "bg-paper border-hair"}
					title="draft"
					line={draft || "as the newest edition"}
					when={state}
					onOpen={() => onOpen(0)}
				/>
				{editions.map((one, at) => (
					<Mark
						key={one.number}
						now={open === one.number}
						held={against === one.number}
						shape={at === 0 ? "bg-moss border-moss" : "bg-paper border-moss"}
						title={`edition ${one.number}`}
						line={one.title}
						when={`${day(one.sealed_at)}, ${clock(one.sealed_at)}`}
						more={effectPhrases(one.counts)[0]}
						onOpen={() => onOpen(one.number)}
						onAgainst={open !== one.number ? () => onAgainst(one.number) : undefined}
					/>
				))}
			</ol>
			{!editions.length && (
				<p className="mt-2 text-soft">
					There is no edition yet. Offer the draft for review; once it is agreed to, sealing it makes the
					first.
				</p>
			)}
			{children}
		</nav>
	);
}

interface MarkProps {
	now: boolean;
	held?: boolean;
	shape: string;
	title: string;
	line: string;
	when: string;
	more?: string;
	onOpen: () => void;
	onAgainst?: () => void;
}

function Mark({ now, held, shape, title, line, when, more, onOpen, onAgainst }: MarkProps) {
	return (
		<li className="group relative pb-3">
			<button
				type="button"
				aria-current={now ? "true" : undefined}
				className={`flex w-full gap-3 rounded-[3px] py-1 pr-1 text-left ${now ? "bg-chosen" : "hover:bg-raised"}`}
				onClick={onOpen}
			>
				<span className={`relative mt-[3px] h-[15px] w-[15px] flex-none border-2 ${shape}`} />
				<span className="min-w-0">
					<b className="block text-[12.5px] font-[640]">{title}</b>
					<span className="block text-[11.5px] leading-snug break-words">{line}</span>
					<span className="block text-[11px] text-soft">{when}</span>
					{more && <span className="block text-[11px] text-soft">{more}</span>}
				</span>
			</button>
			{onAgainst && (
				<button
					type="button"
					aria-pressed={held}
					className={`ml-7 min-h-6 text-[11px] text-indigo hover:underline ${held ? "font-bold" : "opacity-0 group-focus-within:opacity-100 group-hover:opacity-100"}`}
					onClick={onAgainst}
				>
					{held ? "held against this one" : "hold against this one"}
				</button>
			)}
		</li>
	);
}
