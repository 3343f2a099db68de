/** The lines that change, those that are alike told once, with what was said of them. */
import { useState } from "react";
import type { Fabric } from "../api/client";
import { useMay } from "../api/session";
import { clock, counted, day } from "../ui/words";
import { Head } from "./letter";
import { contracted } from "./names";
import { type Comment, type Like, type Sides, useAct, useLike } from "./queries";

interface Props {
	fabric: Fabric;
	sides: Sides;
	comments: readonly Comment[];
	commentable: boolean;
}

const FEW = 12;

export function Lines({ fabric, sides, comments, commentable }: Props) {
	const { data: groups, error } = useLike(fabric, sides);
	const [whole, setWhole] = useState(false);
	if (error || !groups?.length) return null;
	const shown = whole ? groups : groups.slice(0, FEW);
	return (
		<>
			<Head>Lines</Head>
			{shown.map((group) => (
				<Group
					key={`${group.path} ${group.switches[0]} ${group.lines[0]?.before} ${group.lines[0]?.after}`}
					fabric={fabric}
					group={group}
					comments={comments}
					commentable={commentable}
				/>
			))}
			{groups.length > shown.length && (
				<button type="button" className="button-plain mt-2" onClick={() => setWhole(true)}>
					{counted(groups.length - shown.length, "more kind of change", "more kinds of change")}
				</button>
			)}
		</>
	);
}

function Group({ fabric, group, comments, commentable }: { group: Like } & Omit<Props, "sides">) {
	const may = useMay("say", fabric.name) && commentable;
	const [at, setAt] = useState(-1);
	const lines = counted(group.lines.length + group.more, "line");
	const first = group.switches[0] ?? "";
	let shown: string[] = [];
	return (
		<section className="mb-4">
			<p>
				<b className="font-semibold">
					{group.count === 1
						? `${lines} on ${first}`
						: `${group.same ? "the same" : "like"} ${lines} on ${group.count} switches`}
				</b>{" "}
				<span className="text-soft">
					<span className="mono">{group.path}</span>
					{group.count > 1 && ` · ${contracted(group.switches, 5)}`}
					{group.count > 1 && !group.same && `; each with its own values, shown for ${first}`} · {group.words}
				</span>
			</p>
			<div className="mt-1 font-mono text-[11.5px] leading-[1.6]">
				{group.lines.map((line, index) => {
					const opened = line.within.filter((block, depth) => shown[depth] !== block);
					const depth = line.within.length;
					const start = depth - opened.length;
					shown = line.within;
					const stood = line.after || line.before;
					const said = comments.filter(
						(one) => one.thing === "line" && one.stood === stood && one.at.endsWith(` ${group.path}`),
					);
					return (
						// biome-ignore lint/suspicious/noArrayIndexKey: lines stand in their order, and some are alike
						<div key={index}>
							{opened.map((block, each) => (
								<div key={block} style={{ paddingLeft: 6 + 12 * (start + each) }} className="text-soft">
									{block}
								</div>
							))}
							<button
								type="button"
								className="block w-full text-left"
								aria-expanded={at === index}
								onClick={() => setAt(at === index ? -1 : index)}
							>
								{line.before && (
									<span
										style={{ paddingLeft: 6 + 12 * depth }}
										className="block border-l-[3px] border-dashed border-madder text-soft line-through decoration-madder"
									>
										{line.before}
									</span>
								)}
								{line.after && (
									<span
										style={{ paddingLeft: 6 + 12 * depth }}
										className="hatched block border-l-[3px] border-weld"
									>
										{line.after}
									</span>
								)}
							</button>
							{(at === index || said.length > 0) && (
								<div className="my-1 border-l-[3px] border-woad py-0.5 pl-2.5 font-sans text-[13px]">
									{at === index && (
										<p>
											It {line.effect === "none" || line.effect === "new" ? "" : "means that "}
											{line.words}
											{line.why && `: ${line.why}`}.{" "}
											{line.source && <span className="text-soft">{line.source}</span>}
										</p>
									)}
									<Said fabric={fabric} comments={said} all={comments} may={may} />
									{at === index && may && (
										<Say
											fabric={fabric}
											label={`Comment on ${stood}`}
											about={{ thing: "line", at: `${first} ${group.path}`, stood }}
										/>
									)}
								</div>
							)}
						</div>
					);
				})}
				{group.more > 0 && <div className="pl-1.5 text-soft">and {counted(group.more, "more line")}</div>}
			</div>
		</section>
	);
}

type About = Pick<Comment, "thing" | "at" | "stood"> & { answers?: number };

/** A box to say something of a thing. */
export function Say({ fabric, about, label }: { fabric: Fabric; about: About; label: string }) {
	const [words, setWords] = useState("");
	const act = useAct(fabric);
	return (
		<form
			className="mt-1 flex gap-2"
			onSubmit={(event) => {
				event.preventDefault();
				if (words.trim()) act.mutate({ kind: "comment", ...about, words }, { onSuccess: () => setWords("") });
			}}
		>
			<input
				className="field h-7 min-w-0 flex-1"
				aria-label={label}
				placeholder={about.answers ? "answer" : "comment"}
				value={words}
				onChange={(event) => setWords(event.target.value)}
			/>
			<button type="submit" className="button-plain" disabled={!words.trim() || act.isPending}>
				{about.answers ? "Answer" : "Comment"}
			</button>
		</form>
	);
}

/** What was said of a thing, with the answers. */
export function Said({
	fabric,
	comments,
	all,
	may,
}: {
	fabric: Fabric;
	comments: readonly Comment[];
	all: readonly Comment[];
	may: boolean;
}) {
	const act = useAct(fabric);
	const [answering, setAnswering] = useState(0);
	return (
		<>
			{comments
				.filter((one) => one.answers === null)
				.map((one) => (
					<div key={one.id} className="mb-1.5">
						<Words comment={one} />
						{all
							.filter((other) => other.answers === one.id)
							.map((other) => (
								<div key={other.id} className="mt-1 ml-3 border-l-2 border-hair pl-2">
									<Words comment={other} />
								</div>
							))}
						{may && (
							<div className="flex gap-3">
								<button
									type="button"
									className="button-plain"
									onClick={() => setAnswering(answering === one.id ? 0 : one.id)}
								>
									answer
								</button>
								<button
									type="button"
									className="button-plain"
									disabled={act.isPending}
									onClick={() => act.mutate({ kind: "settle", comment: one.id, settled: !one.settled_at })}
								>
									{one.settled_at ? "open again" : "settled"}
								</button>
							</div>
						)}
						{answering === one.id && (
							<Say
								fabric={fabric}
								label={`Answer ${one.author}`}
								about={{ thing: "whole", at: "", stood: "", answers: one.id }}
							/>
						)}
					</div>
				))}
		</>
	);
}

function Words({ comment }: { comment: Comment }) {
	return (
		<>
			<b className="font-semibold">{comment.author}</b>{" "}
			<span className="text-soft">
				{day(comment.said_at)}, {clock(comment.said_at)}
				{comment.settled_by && `, settled by ${comment.settled_by}`}
				{!comment.stands && `; what it was about is no more: ${comment.stood}`}
			</span>
			<p className={`whitespace-pre-wrap ${comment.settled_at ? "text-soft" : ""}`}>{comment.words}</p>
		</>
	);
}
