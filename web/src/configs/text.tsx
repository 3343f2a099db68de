/** The text of a file, line by line; each value shows where it comes from, each line can be asked why. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import type { FileLine } from "../api/client";

interface Props {
	file: { path: string; lines: FileLine[] };
	line: number;
	onChoose: (line: number) => void;
}

export function FileText({ file, line, onChoose }: Props) {
	const box = useRef<HTMLDivElement>(null);
	const rows = useVirtualizer({
		count: file.lines.length,
		getScrollElement: () => box.current,
		estimateSize: () => 19,
		overscan: 30,
		paddingStart: 8,
		paddingEnd: 8,
		scrollPaddingStart: 30,
		scrollPaddingEnd: 60,
	});
	useEffect(() => {
		if (line > 0 && line <= file.lines.length) rows.scrollToIndex(line - 1, { align: "auto" });
	}, [line, file.lines.length, rows]);
	return (
		<section
			ref={box}
			// biome-ignore lint/a11y/noNoninteractiveTabindex: a long text is scrolled by keyboard
			tabIndex={0}
			aria-label={file.path}
			className="min-h-0 flex-1 overflow-auto"
		>
			<div className="relative" style={{ height: rows.getTotalSize() }}>
				{rows.getVirtualItems().map((row) => {
					const number = row.index + 1;
					const content = file.lines[row.index];
					if (!content) return null;
					return (
						<button
							key={row.key}
							type="button"
							tabIndex={-1}
							onClick={() => onChoose(number)}
							style={{ transform: `translateY(${row.start}px)` }}
							className={`absolute top-0 left-0 flex h-[19px] w-full text-left font-mono text-[12.2px] leading-[19px] whitespace-pre hover:bg-raised ${number === line ? "bg-chosen shadow-[inset_3px_0_var(--indigo)]" : ""}`}
						>
							<span className="w-[46px] flex-none pr-3.5 text-right text-faint">{number}</span>
							<span className={/^\s*[!#]/.test(content.text) ? "text-faint" : ""}>
								<Marked line={content} />
							</span>
						</button>
					);
				})}
			</div>
		</section>
	);
}

function Marked({ line }: { line: FileLine }) {
	const parts: React.ReactNode[] = [];
	let at = 0;
	for (const span of [...line.spans].sort((one, two) => one.start - two.start)) {
		parts.push(line.text.slice(at, span.start));
		parts.push(
			<span key={`${span.start} ${span.path}`} className={`from-${span.source}`}>
				{line.text.slice(span.start, span.end)}
			</span>,
		);
		at = span.end;
	}
	parts.push(line.text.slice(at));
	return <>{parts}</>;
}
