/** A question of a rehearsal as a report: what it claims, those claims that failed first, each with what was expected and what was found. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef } from "react";
import { number } from "../ui/words";
import type { Answer, Claim } from "./queries";
import { Sign } from "./sign";

interface Props {
	answer: Answer;
	claims: readonly Claim[] | undefined;
	chosen: string;
	onChoose: (words: string) => void;
}

export function Report({ answer, claims, chosen, onChoose }: Props) {
	const box = useRef<HTMLDivElement>(null);
	const rows = useVirtualizer({
		count: claims?.length ?? 0,
		getScrollElement: () => box.current,
		estimateSize: (at) => (claims?.[at]?.holds ? 26 : 46),
		overscan: 20,
	});
	return (
		<section aria-label={answer.title} className="flex min-h-0 flex-1 flex-col">
			<h3 className="text-[16px] font-bold">{answer.title}</h3>
			<p className="mb-2 text-soft">
				{answer.state === "not asked"
					? `Not asked: ${answer.why}.`
					: answer.failed
						? `${number(answer.failed)} of ${number(answer.claims)} do not hold, after ${answer.seconds.toFixed(1)} s of asking.`
						: `All ${number(answer.claims)} hold, after ${answer.seconds.toFixed(1)} s.`}
			</p>
			<div ref={box} className="min-h-0 flex-1 overflow-y-auto border-t border-hair">
				<ul className="relative" style={{ height: rows.getTotalSize() }}>
					{rows.getVirtualItems().map((row) => {
						const claim = claims?.[row.index];
						return (
							claim && (
								<li
									key={row.key}
									ref={rows.measureElement}
									data-index={row.index}
									className="absolute w-full"
									style={{ transform: `translateY(${row.start}px)` }}
								>
									<button
										type="button"
										aria-current={claim.words === chosen ? "true" : undefined}
										className={`flex w-full gap-2.5 border-b border-hair/60 px-1.5 py-[3px] text-left ${claim.words === chosen ? "bg-chosen" : "hover:bg-raised"}`}
										onClick={() => onChoose(claim.words)}
									>
										<span className="mt-[3px]">
											<Sign standing={claim.holds ? "yes" : "no"} />
										</span>
										<span className="min-w-0">
											{claim.words}
											{!claim.holds && (
												<span className="block text-madder">
													{claim.found}; expected: {claim.expected}
												</span>
											)}
										</span>
									</button>
								</li>
							)
						);
					})}
				</ul>
			</div>
		</section>
	);
}
