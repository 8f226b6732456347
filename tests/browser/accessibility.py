"""Looks for barriers with axe-core, which knows the rules of WCAG 2.2."""

from pathlib import Path

SCRIPT = Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js"
# Beside all that is serious, these are ours to keep.
_OWN = ["label-content-name-mismatch", "page-has-heading-one", "empty-table-header", "region", "landmark-one-main"]
_COLOURS = ["color-contrast"]
_STILL = {"textContent": "*, *::before, *::after { transition: none !important; animation: none !important; }"}
_RUN = """
const done = arguments[arguments.length - 1];
const only = arguments[1];
const rules = Object.fromEntries(arguments[0].map((rule) => [rule, { enabled: true }]));
for (const rule of arguments[2] ?? []) rules[rule] = { enabled: false };
axe.run(document.querySelector('[role=dialog][data-state=open]') ?? document, { resultTypes: ['violations'], preload: false, ...(only ? { runOnly: { type: 'rule', values: only } } : { rules }) }).then(
  (found) => done(found.violations.map((one) => [one.id, one.impact,
    one.nodes.map((node) => `${node.target.join(' ')}: ${node.html.slice(0, 120)} ${(node.any[0] || {}).message || ''}`)])),
  (error) => done([['failed', 'critical', [String(error)]]]));
"""


def watch(driver):
    """Get ready on a page that was just opened. Colours that are on their way from one to another are neither."""
    if not driver.execute_script("return !!window.axe"):
        driver.execute_script(SCRIPT.read_text())
        driver.execute_script(
            "document.head.append(Object.assign(document.createElement('style'), arguments[0]))", _STILL
        )


def barriers(driver, colours=None):
    """What hinders somebody on the page as it is, or in what is open on it: the rule, and the first places that break
    it.

    Args:
        colours: whether they alone are looked at, or all but them; everything where absent. Light and dark differ in
            nothing else, wide and narrow do not differ in them.
    """
    watch(driver)
    found = driver.execute_async_script(
        _RUN, _OWN, _COLOURS if colours else None, _COLOURS if colours is False else None
    )
    return {rule: places[:3] for rule, impact, places in found if impact in ("serious", "critical") or rule in _OWN}
