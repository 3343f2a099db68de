/** A box that comes by RFC 8572: its ownership voucher, and a word where it has no certificate of its maker. */
import { useState } from "react";
import type { Fabric } from "../api/client";
import { useNotices } from "../ui/notices";
import { clock } from "../ui/words";
import type { Line } from "./line";
import { type SztpBox, useAllow } from "./queries";

interface Props {
	fabric: Fabric;
	line: Line;
	box: SztpBox | undefined;
	may: boolean;
}

const MOST = 30_000;

export function Sztp({ fabric, line, box, may }: Props) {
	const [open, setOpen] = useState(false);
	const [voucher, setVoucher] = useState<File>();
	const [word, setWord] = useState(false);
	const [made, setMade] = useState("");
	const { tell } = useNotices();
	const allow = useAllow(fabric);
	const say = async () => {
		if (voucher && voucher.size > MOST)
			return tell({ tone: "wrong", text: `${voucher.name} is too large for a voucher.` });
		const bytes = voucher ? new Uint8Array(await voucher.arrayBuffer()) : [];
		const said = { voucher: btoa(String.fromCharCode(...bytes)), word };
		allow.mutate(
			{ switch: line.name, said },
			{
				onSuccess: (found) => {
					setMade(found?.word ?? "");
					setOpen(false);
				},
			},
		);
	};
	return (
		<section aria-label="By RFC 8572" className="mb-3">
			<p className="text-soft">
				{box
					? `May come by RFC 8572${shows(box)}; ${box.progress || (box.seen_at ? `asked at ${clock(box.seen_at)}` : "not seen yet")}.`
					: "Does not come by RFC 8572."}{" "}
				{may && line.expected.serial && (
					<button type="button" className="button-plain mr-2" onClick={() => setOpen(!open)}>
						{box ? "Change" : "Let it"}
					</button>
				)}{" "}
				{may && box && (
					<button
						type="button"
						className="button-plain"
						disabled={allow.isPending}
						onClick={() => allow.mutate({ switch: line.name })}
					>
						No more
					</button>
				)}
			</p>
			{made && (
				<p className="mt-1 border-weld border-l-[3px] pl-3">
					It says this word, shown only now: <code className="mono break-all select-all">{made}</code>
				</p>
			)}
			{open && (
				<form
					className="mt-1 border-indigo border-l-[3px] pl-3"
					onSubmit={(event) => {
						event.preventDefault();
						void say();
					}}
				>
					<label className="block">
						Its ownership voucher
						<input
							type="file"
							className="file-field mt-0.5 block w-full"
							onChange={(event) => setVoucher(event.target.files?.[0])}
						/>
					</label>
					<label className="mt-2 flex gap-2">
						<input type="checkbox" checked={word} onChange={(event) => setWord(event.target.checked)} />
						make a word for it, since it has no certificate of its maker
					</label>
					<button type="submit" className="button-main mt-2" disabled={allow.isPending}>
						Let it come
					</button>
				</form>
			)}
		</section>
	);
}

function shows(box: SztpBox): string {
	const found = [box.word && "a word", box.voucher && "a voucher"].filter(Boolean);
	return found.length ? `, with ${found.join(" and ")}` : ", with its maker’s certificate";
}
