/** Save what an address of ours gives, under the name that it says. */
export function download(url: string): void {
	const link = document.createElement("a");
	link.href = url;
	link.download = "";
	document.body.append(link);
	link.click();
	link.remove();
}
