"""Script and layout between an answer and its picture: ``.venv/bin/python -m benchmarks.swap ADDRESS NAME PASSWORD``.

On a site that runs at the address: answers to readings are put into the bench, and into a bare page with the same
styles, htmx and nothing else, in turns in one browser; each until its layout is done.
"""

import sys

from playwright.sync_api import Page, Route, sync_playwright

ROUNDS, SWAPS = 5, 12
LINE, TYPED = "9V: 1k + 470 + 220 + (2k2 | 3k3); 5", ("0.987k", "468", "221", "2.19k")
_SWAP = """async ([answers, swaps]) => {
    const times = [];
    for (let k = 0; k < swaps; k += 1) {
        const settled = new Promise(go => document.addEventListener("htmx:afterSettle", go, {once: true}));
        const begun = performance.now();
        const answer = answers[k % answers.length];
        htmx.swap(document.getElementById("bench"), answer, {swapStyle: "outerHTML", settleDelay: 0});
        await settled;
        document.body.getBoundingClientRect();
        times.push(performance.now() - begun);
    }
    return times.sort((a, b) => a - b)[Math.floor(swaps / 2)];
}"""


def answers_of(page: Page) -> list[str]:
    """The answers to some readings of a fresh run, as they came."""
    page.goto("/runs/new/")
    page.get_by_label("Circuit in one line").fill(LINE)
    page.get_by_role("button", name="Start the run").click()
    page.wait_for_selector("#reading-text")
    answers = []
    for text in TYPED:
        page.fill("#reading-text", text)
        with page.expect_response("**/record/") as came:
            page.keyboard.press("Enter")
        answers.append(came.value.text())
        page.wait_for_timeout(500)
    return answers[1:]


def bare_page(page: Page) -> Page:
    """A page of the same origin and styles with a place for the answer, and htmx."""
    links = page.evaluate("[...document.querySelectorAll('link[rel=stylesheet]')].map(l => l.outerHTML).join('')")
    script = page.evaluate("document.querySelector('script[src*=htmx]').outerHTML")
    markup = f"<!DOCTYPE html><html lang=en><head>{links}{script}</head><body class=one-screen><main><div id=bench>"
    other = page.context.new_page()
    other.route("**/bare", lambda route: _fulfil(route, f"{markup}</div></main></body></html>"))
    other.goto("/bare")
    other.wait_for_function("window.htmx")
    return other


def _fulfil(route: Route, markup: str) -> None:
    route.fulfill(body=markup, content_type="text/html")


def main() -> None:
    """Sign in, gather answers, take turns, print the ratio."""
    address, name, password = sys.argv[1:4]
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=["--no-sandbox"])
        page = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address).new_page()
        page.goto("/sign-in/")
        page.get_by_label("Name").fill(name)
        page.get_by_label("Password").fill(password)
        page.get_by_role("button", name="Sign in").click()
        page.wait_for_selector("main")
        answers = answers_of(page)
        bare = bare_page(page)
        times: dict[Page, list[float]] = {page: [], bare: []}
        for _ in range(ROUNDS):
            for shown, taken in times.items():
                taken.append(shown.evaluate(_SWAP, [answers, SWAPS]))
        ours, least = min(times[page]), min(times[bare])
        size = sum(map(len, answers)) // len(answers)
        print(f"an answer of {size} bytes: {ours:.1f} ms in the bench, {least:.1f} ms bare; {ours / least:.2f} times")


if __name__ == "__main__":
    main()
