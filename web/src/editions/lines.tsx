/** The lines that change, those that are alike told once, with what was said of them. */
import { useState } from "react";
import type { Fabric } from "../api/client";
import { useMay } from "../api/session";
import { counted } from "../ui/words";
import { contracted } from "./names";
import { type Comment, type Like, type Sides, useLike } from "./queries";
import { Head, Said, Say } from "./saying";

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
