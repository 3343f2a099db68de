/** What all claims about the front end share: sizes for a page that has none, and an empty page after each. */
import { cleanup, configure } from "@testing-library/react";
import { afterEach } from "vitest";

// Nothing waits for this long where it comes true; a slow machine may need it.
configure({ asyncUtilTimeout: 10_000 });

// A page that is never painted has no sizes; what scrolls by them is given some.
for (const box of ["offset", "client"]) {
	Object.defineProperty(HTMLElement.prototype, `${box}Height`, { configurable: true, get: () => 480 });
	Object.defineProperty(HTMLElement.prototype, `${box}Width`, { configurable: true, get: () => 900 });
}
Range.prototype.getClientRects = () => [] as unknown as DOMRectList;
Range.prototype.getBoundingClientRect = () => new DOMRect();
HTMLElement.prototype.scrollIntoView = () => undefined;
HTMLElement.prototype.scrollTo = () => undefined;
HTMLCanvasElement.prototype.getContext = () => null;
Object.defineProperty(document, "fonts", { value: { ready: Promise.resolve() }, configurable: true });
window.PointerEvent ??= MouseEvent as never;
Element.prototype.setPointerCapture = () => undefined;
HTMLElement.prototype.hasPointerCapture = () => false;
window.matchMedia = (media) =>
	({ matches: false, media, addEventListener() {}, removeEventListener() {} }) as never;
globalThis.ResizeObserver = class {
	observe() {}
	unobserve() {}
	disconnect() {}
};

Blob.prototype.text ??= function (this: Blob) {
	return new Promise((done) => {
		const reader = new FileReader();
		reader.onload = () => done(String(reader.result));
		reader.readAsText(this);
	});
};

Blob.prototype.arrayBuffer ??= function (this: Blob) {
	return new Promise((done) => {
		const reader = new FileReader();
		reader.onload = () => done(reader.result as ArrayBuffer);
		reader.readAsArrayBuffer(this);
	});
};

afterEach(() => {
	cleanup();
	localStorage.clear();
	sessionStorage.clear();
	history.replaceState(null, "", "/");
});
