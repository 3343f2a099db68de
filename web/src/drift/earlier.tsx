/** What was asked before, the newest first, to look at again. */
import { clock } from "../ui/words";

interface Asked {
	number: number;
	author: string;
	at: string;
}

interface Props<One extends Asked> {
	label: string;
	every: readonly One[] | undefined;
	shown: number | undefined;
	words: (one: One) => string;
	onShow: (number: number) => void;
}

export function Earlier<One extends Asked>({ label, every, shown, words, onShow }: Props<One>) {
	if (!every || every.length < 2) return null;
	return (
		<>
			<div className="label-small mt-3 mb-1">{label}</div>
			<ul className="text-[12px]">
				{every.slice(0, 12).map((one) => (
					<li key={one.number}>
						<button
							type="button"
							className={`mono ${one.number === shown ? "font-bold" : "text-soft hover:text-indigo"}`}
							onClick={() => onShow(one.number)}
						>
							{words(one)}
						</button>{" "}
						<span className="text-soft">
							{one.author}, {clock(one.at)}
						</span>
					</li>
				))}
			</ul>
		</>
	);
}
