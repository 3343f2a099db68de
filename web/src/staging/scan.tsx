/** Boxes one after another: a scanner types into one field, and each box is the next switch's that has none. */
import { useEffect, useRef, useState } from "react";
import type { Failure } from "../api/client";
import type { Line } from "./line";

interface Props {
	lines: readonly Line[];
	from: string | undefined;
	busy: boolean;
	onBind: (name: string, scanned: string) => Promise<unknown>;
	onLeave: () => void;
}

export function Scan({ lines, from, busy, onBind, onLeave }: Props) {
	const [text, setText] = useState("");
	const [said, setSaid] = useState("");
	const [wrong, setWrong] = useState(false);
	const field = useRef<HTMLInputElement>(null);
	const chosen = lines.find((one) => one.name === from && !one.box);
	const next = chosen ?? lines.find((one) => !one.box);
	useEffect(() => field.current?.focus(), []);
	const take = async () => {
		if (!text.trim() || !next || busy) return;
		try {
			await onBind(next.name, text);
			setSaid(`${next.name} is ${text.trim()}`);
			setWrong(false);
			setText("");
		} catch (failure) {
			setSaid((failure as Failure).message);
			setWrong(true);
		}
		field.current?.select();
	};
	return (
		<form
			className="mt-3 flex flex-wrap items-baseline gap-x-4 gap-y-1 border-l-4 border-indigo pl-3"
			onSubmit={(event) => {
				event.preventDefault();
				void take();
			}}
		>
			{next ? (
				<label className="flex flex-wrap items-baseline gap-x-3">
					<span>
						<b className="font-[640]">
							{next.rack}: {next.name}
						</b>{" "}
						<span className="text-soft">
							{next.model}, {next.airflow}
						</span>
					</span>
					<input
						ref={field}
						aria-label="Serial number or MAC address"
						className="mono w-[22ch] border-b border-indigo-line bg-transparent py-1 text-[16px]"
						value={text}
						autoComplete="off"
						spellCheck={false}
						placeholder="scan or type"
						onChange={(event) => setText(event.target.value)}
					/>
				</label>
			) : (
				<span>Every switch has its box.</span>
			)}
			<span role="status" className={wrong ? "text-madder" : "text-moss"}>
				{said}
			</span>
			<button type="button" className="button-plain ml-auto" onClick={onLeave}>
				Leave off
			</button>
		</form>
	);
}
