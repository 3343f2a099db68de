/** What all claims about the front end share: a page that is empty again after each. */
import { cleanup } from "@testing-library/react";
import { afterEach } from "vitest";

afterEach(() => {
	cleanup();
	localStorage.clear();
	sessionStorage.clear();
});
