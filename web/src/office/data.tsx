/** What templates see of a switch, as JSON, to be changed by hand for a trial: one port less, another role. */
import * as Dialog from "@radix-ui/react-dialog";
import { useState } from "react";
import { client, got } from "../api/client";

interface Props {
	fabric: string;
	at: string;
	data: Record<string, unknown> | null;
	onData: (data: Record<string, unknown> | null) => void;
}

export function Data({ fabric, at, data, onData }: Props) {
	const [open, setOpen] = useState(false);
	const [text, setText] = useState("");
	const [wrong, setWrong] = useState("");
	const show = async () => {
		const now =
			data ??
			(await got(
				client.GET("/api/v1/fabrics/{name}/switches/{switch}/data", {
					params: { path: { name: fabric, switch: at } },
				}),
			));
		setText(JSON.stringify(now, null, 2));
		setWrong("");
		setOpen(true);
	};
	const take = () => {
		try {
			onData(JSON.parse(text) as Record<string, unknown>);
			setOpen(false);
		} catch (error) {
			setWrong(`This is not JSON: ${error instanceof Error ? error.message : ""}`);
		}
	};
	return (
		<Dialog.Root open={open} onOpenChange={setOpen}>
			<button
				type="button"
				className="button-plain whitespace-nowrap"
				disabled={!at}
				onClick={() => void show()}
			>
				{data ? "data changed" : "its data"}
			</button>
			<Dialog.Portal>
				<Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
				<Dialog.Content className="fixed inset-x-0 top-14 z-50 mx-auto w-[720px] rounded-[4px] border border-hair bg-raised p-5 shadow-lg">
					<Dialog.Title className="mb-1 text-[15px] font-bold">What templates see of {at}</Dialog.Title>
					<Dialog.Description className="mb-2 text-soft">
						Change it for the trial: take a port out, give another role. The fabric stays as it is.
					</Dialog.Description>
					<textarea
						className="field mono h-[52vh] w-full"
						aria-label="The data as JSON"
						spellCheck={false}
						value={text}
						onChange={(event) => setText(event.target.value)}
					/>
					{wrong && (
						<p role="alert" className="text-madder">
							{wrong}
						</p>
					)}
					<div className="mt-3 flex gap-5">
						<button type="button" className="button-main" onClick={take}>
							Try it with these
						</button>
						<button
							type="button"
							className="button-plain"
							onClick={() => {
								onData(null);
								setOpen(false);
							}}
						>
							As the fabric has it
						</button>
					</div>
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}
