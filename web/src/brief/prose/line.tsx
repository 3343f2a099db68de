/** The shape in a line: type it as one would say it; Tab takes the word offered, and what is wrong is pointed at. */
import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useRef, useState } from "react";
import { type Completion, client, got } from "../../api/client";
import { useChange } from "../../api/edits";
import { useOpenFabric } from "../../app/open";
import { Refusal } from "../../app/refusal";

export function useCompletion(line: string): Completion | undefined {
	const asked = useDeferredValue(line);
	return useQuery({
		queryKey: ["quickline", asked],
		queryFn: () => got(client.POST("/api/v1/quickline/complete", { body: { line: asked } })),
		placeholderData: (before) => before,
		staleTime: 60_000,
	}).data;
}

interface FieldProps {
	value: string;
	onChange: (line: string) => void;
	onTake: () => void;
	rows?: number;
}

export function LineField({ value, onChange, onTake, rows = 4 }: FieldProps) {
	const found = useCompletion(value);
	const field = useRef<HTMLTextAreaElement>(null);
	const take = (word: string) => {
		const begun = /[^\s,:]*$/.exec(value)?.[0] ?? "";
		const stem = value.slice(0, value.length - begun.length);
		onChange(word === "," ? `${stem.trimEnd()}, ` : `${stem}${word} `);
		field.current?.focus();
	};
	const point = () => {
		const at = (found?.column ?? 1) - 1;
		const end = at + (/^[^\s,]*/.exec(value.slice(at))?.[0].length ?? 0);
		field.current?.focus();
		field.current?.setSelectionRange(at, end);
	};
	const words = found?.words ?? [];
	return (
		<>
			<textarea
				ref={field}
				rows={rows}
				className="field mono w-full resize-y"
				aria-label="The fabric in a line"
				spellCheck={false}
				value={value}
				placeholder="4 spines cantera-c64, 12 racks of leaf pairs cantera-l48, 2 uplinks per spine, dual stack"
				onChange={(event) => onChange(event.target.value.replaceAll("\n", " "))}
				onKeyDown={(event) => {
					if (event.key === "Tab" && !event.shiftKey && words[0] && /[^\s,:]$/.test(value)) {
						event.preventDefault();
						take(words[0]);
					}
					if (event.key === "Enter") {
						event.preventDefault();
						onTake();
					}
				}}
			/>
			{value && found?.wrong && (
				<button
					type="button"
					className="block w-full border-madder border-l-4 pl-2 text-left text-madder"
					onClick={point}
				>
					{found.wrong}
				</button>
			)}
			<div className="mt-1 flex flex-wrap gap-x-2.5 gap-y-0.5">
				{words.slice(0, 12).map((word) => (
					<button key={word} type="button" className="button-plain mono" onClick={() => take(word)}>
						{word}
					</button>
				))}
			</div>
		</>
	);
}

export function InALine() {
	const fabric = useOpenFabric();
	const change = useChange(fabric.name, true);
	const own = fabric.line.replace(/^[^:]*: /, "");
	const [line, setLine] = useState<string | null>(null);
	if (line === null)
		return (
			<button type="button" className="button-plain" onClick={() => setLine(own)}>
				Say it in a line
			</button>
		);
	const take = () => change.mutate({ kind: "line", line }, { onSuccess: () => setLine(null) });
	return (
		<div className="mb-2">
			<LineField value={line} onChange={setLine} onTake={take} rows={6} />
			{change.error && <Refusal failure={change.error} />}
			{fabric.beyond_line.length > 0 && (
				<p className="mt-1 text-[12px] text-soft">
					{`A line does not speak of ${fabric.beyond_line.join(", ").replaceAll(/[_.]/g, " ")}: they stay.`}
				</p>
			)}
			<div className="mt-1.5 flex gap-4">
				<button
					type="button"
					className="button-main"
					disabled={line === own || change.isPending}
					onClick={take}
				>
					Make it so
				</button>
				<button type="button" className="button-plain" onClick={() => setLine(null)}>
					Cancel
				</button>
			</div>
		</div>
	);
}
