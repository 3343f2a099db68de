/** Notices: what happened elsewhere or could not be done, said once, until dismissed. */
import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from "react";

interface Notice {
	id: number;
	tone: "wrong" | "changed" | "done";
	text: string;
}

interface Notices {
	tell: (notice: Omit<Notice, "id">) => void;
}

const Context = createContext<Notices>({ tell: () => undefined });

export const useNotices = () => useContext(Context);

const MARK = {
	wrong: "border-l-madder",
	changed: "border-l-weld",
	done: "border-l-moss",
};
const WORD = { wrong: "Not possible", changed: "Changed elsewhere", done: "Done" };

export function NoticeBoard({ children }: { children: ReactNode }) {
	const [notices, setNotices] = useState<Notice[]>([]);
	const dismiss = useCallback((id: number) => setNotices((all) => all.filter((one) => one.id !== id)), []);
	const tell = useCallback(
		(notice: Omit<Notice, "id">) => {
			const id = Date.now() + Math.random();
			setNotices((all) => [...all.filter((one) => one.text !== notice.text).slice(-2), { ...notice, id }]);
			if (notice.tone === "done") setTimeout(() => dismiss(id), 5000);
		},
		[dismiss],
	);
	const value = useMemo(() => ({ tell }), [tell]);
	return (
		<Context value={value}>
			{children}
			<section
				aria-live="polite"
				aria-label="Notices"
				className="fixed bottom-13 left-1/2 z-50 flex -translate-x-1/2 flex-col gap-2"
			>
				{notices.map((notice) => (
					<div
						key={notice.id}
						className={`flex w-[560px] items-start gap-4 rounded-[3px] border border-l-4 border-hair bg-raised px-4 py-2.5 shadow-sm ${MARK[notice.tone]}`}
					>
						<div className="min-w-0 flex-1">
							<div className="font-semibold">{WORD[notice.tone]}</div>
							<div className="break-words">{notice.text}</div>
						</div>
						<button type="button" className="button-plain" onClick={() => dismiss(notice.id)}>
							Dismiss
						</button>
					</div>
				))}
			</section>
		</Context>
	);
}
