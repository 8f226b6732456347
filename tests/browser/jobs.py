"""The commonest jobs, done step by step as a person does them, with a count of clicks and keys.

A click is one press of the mouse; to choose from a list is two. A key is one press of a key; a paste is one key.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tin_bucket.demo.services.operations import KEY, KEY_HEADER

PASTE_BOX = "textarea[aria-label^='Address']"


class Counted:
    """Hands that count what they do."""

    def __init__(self, hands):
        self.hands = hands
        self.clicks = self.keys = 0

    def click(self, words, css="button, a, [role=tab]"):
        self.hands.click(words, css)
        self.clicks += 1

    def click_text(self, words, css="button, a"):
        self.hands.click_text(words, css)
        self.clicks += 1

    def press(self, css):
        """Click what fits a selector."""
        self.hands.find(css).click()
        self.clicks += 1

    def choose(self, css, words):
        self.hands.choose(css, words)
        self.clicks += 2

    def paste(self, css, text):
        """Click into a field and paste."""
        self.hands.paste(css, text)
        self.clicks += 1
        self.keys += 1

    def paste_on_desk(self, text):
        """Paste wherever the keyboard is."""
        self.hands.find(PASTE_BOX)
        self.hands.driver.execute_script(
            "const data = new DataTransfer(); data.setData('text/plain', arguments[0]);"
            "document.body.dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles: true}))",
            text,
        )
        self.keys += 1

    def type(self, css, text):
        """Click into a field, mark all of it, and type."""
        self.hands.type(css, text)
        self.clicks += 1
        self.keys += 1 + len(text)

    def key(self, *keys):
        """Press keys, one after the other, wherever the keyboard is."""
        for one in keys:
            chain = ActionChains(self.hands.driver)
            held, last = (one[:-1], one[-1]) if isinstance(one, tuple) else ((), one)
            for down in held:
                chain.key_down(down)
            chain.send_keys(last)
            for up in held:
                chain.key_up(up)
            chain.perform()
            self.keys += 1

    def on(self, words):
        """Wait until the keyboard is on something that says this."""
        script = "const a = document.activeElement; return (a.getAttribute('aria-label') || '') + ' ' + a.innerText"
        self.hands.wait(
            lambda: words in self.hands.driver.execute_script(script),
            f"the keyboard is not on “{words}” but on “{self.hands.driver.execute_script(script)}”",
        )

    def at(self):
        """What the keyboard is on."""
        return self.hands.driver.execute_script(
            "const a = document.activeElement; return (a.getAttribute('aria-label') || '') + ' ' + a.innerText"
        )


@dataclass
class World:
    """What a job finds: a Tin Bucket, and the services of the company."""

    do: Counted
    company: object
    first: str = "2026-11-12"
    last: str = "2026-12-10"

    @property
    def says(self):
        return self.do.hands.says

    @property
    def go(self):
        return self.do.hands.go

    @property
    def operations(self):
        return self.company.bases["operations"]

    def command(self):
        """As it stands in the docs of the service."""
        query = f"route=all&from={self.first}&to={self.last}&per_page=100"
        return f"curl '{self.operations}/sailings?{query}' -H '{KEY_HEADER}: {KEY}'"

    def begun(self):
        """A query that is made of the example command."""
        self.go("/")
        self.do.paste_on_desk(self.command())
        self.says("Nothing has been sent yet")
        self.do.click("Create the query")
        self.says("No table yet")

    def looked(self):
        """And its first answer, with pages and rows taken as they were found."""
        self.begun()
        self.do.click("Ask once")
        self.do.click("Turn pages by number")
        self.do.click("Take its items as rows")

    def heads(self):
        shown = self.do.hands.shown("[role=columnheader] .name")
        return [words for _, words, *_ in shown]


def whole_table(world):
    """An example command becomes the whole table."""
    world.looked()
    world.do.click("Refresh")
    world.says("✓ complete", "header")
    world.says("of", "header")


def looked_up(world):
    """The codes of a sheet are looked up, one by one."""
    do = world.do
    world.go("/")
    do.paste_on_desk("port\n007\n000\n015\n021\n")
    do.click("Make a query of it")
    world.says("No table yet")
    do.click("Refresh")
    world.says("4 rows")
    do.click("nothing yet", ".phrase")
    do.paste("input[name=lookup-path]", f"{world.operations}/ports/{{port}}")
    do.click("Add it")
    do.choose("[role=dialog] label:has(code) select", "port")
    do.click_text("Ask for 007")
    key_for(world)
    do.press("input[aria-label='Take $.name']")
    do.click("Done")
    do.click("Refresh")
    world.says("Oxnith", "[role=gridcell]")


def key_for(world):
    """The service that was added wants its key, which is put in where that is said."""
    do = world.do
    do.paste("input[name=place-name]", KEY_HEADER)
    do.paste("input[name=secret-key]", KEY)
    do.key(Keys.ENTER)


WANTED = ["vessel.name", "departs", "sailing_id", "route.name", "status", "delay_min"]


def six_fields(world):
    """Six fields, in an order of one's own."""
    do = world.do
    world.begun()
    do.click("Ask once")
    do.click("Take its items as rows")
    do.click("Columns", ".phrase")
    do.click("Take none of these")
    for name in WANTED:
        do.press(f"input[aria-label='Take $.{name}']")
    do.click("Take 6 columns")
    world.do.hands.wait(lambda: world.heads() == WANTED, "not these columns")


def by_keyboard(world):
    """Six fields in an order of one's own, and five rows, by keyboard alone."""
    do = world.do
    world.go("/")
    do.paste_on_desk(world.command())
    world.says("Nothing has been sent yet")
    do.key(Keys.ENTER)
    do.on("Ask once")
    do.key(Keys.ENTER)
    do.on("Turn pages by number")
    do.key(Keys.ENTER)
    do.on("Take its items as rows")
    do.key(Keys.ENTER)
    do.on("Refresh")
    while "columns" not in do.at():
        do.key(Keys.TAB)
    do.key(Keys.ENTER)
    do.on("Take $.sailing_id")
    do.key((Keys.SHIFT, Keys.TAB))
    do.on("Take none of these")
    do.key(Keys.ENTER)
    do.on("Take $.sailing_id")
    # The six in their own order: six lines to go from one to the other, on an average.
    for down, name in ((2, "route.name"), (2, "departs"), (1, "vessel.name"), (4, "status"), (1, "delay_min")):
        do.key(*[Keys.ARROW_DOWN] * down)
        do.on(f"Take $.{name}")
        do.key(Keys.SPACE)
    do.key(Keys.HOME)
    do.on("Take $.sailing_id")
    do.key(Keys.SPACE)
    do.key(Keys.ENTER)
    do.on("6 of 13 columns")
    do.key(Keys.TAB, Keys.ENTER)
    do.hands.find("input[name=most-rows]")
    do.key("5", Keys.ENTER)
    do.on("the first 5 rows only")
    do.key((Keys.CONTROL, Keys.ENTER))
    world.says("The brief takes the first 5 rows only", "main")
    order = ["route.name", "departs", "vessel.name", "status", "delay_min", "sailing_id"]
    do.hands.wait(lambda: world.heads() == order, "not these columns")


def another_value(world):
    """Another value of a parameter, and its table."""
    do = world.do
    world.go("/query/1")
    do.click("Parameter route")
    do.choose("select[name=value]", "Harl Sound – Little Brae")
    do.click("Show the table")
    world.says("Harl Sound – Little Brae", "[role=gridcell]")


def three_values(world):
    """One question for each of three values."""
    do = world.do
    world.begun()
    do.click("asked once", ".phrase")
    do.choose("select[name=each-parameter]", "route")
    do.paste("textarea[name=each-values]", "harl-oxnith\nharl-brae\nskerrywick-tarn")
    do.click("Done")
    do.click("Ask once")
    do.click("Turn pages by number")
    do.click("Take its items as rows")
    do.click("Refresh")
    world.says("✓ complete", "header")


def read_as_date(world):
    """A column is read as a date, under another name."""
    do = world.do
    world.begun()
    do.click("Ask once")
    do.click("Take its items as rows")
    made = world.company.operations.calls
    do.click("Table", "[role=tab]")
    do.click("departs", "[role=columnheader] button")
    do.click("Read as date and time")
    do.click("The column", "[role=tab]")
    do.type("[role=dialog] input.field", "departure")
    do.key(Keys.ENTER)
    do.hands.wait(lambda: "departure" in world.heads(), "not renamed")
    do.hands.wait(lambda: ":" in do.hands.cells("departure")[0], "not a date")
    assert world.company.operations.calls == made, "the answer that is here is read anew"


def filtered_export(world):
    """Rows are filtered by a value, and exported as they are seen."""
    do = world.do
    world.go("/query/2")
    do.hands.wait(lambda: "class" in world.heads(), "no columns")
    do.click("class", "[role=columnheader] button")
    do.hands.find("[role=dialog] .often input")
    do.click_text("car", "[role=dialog] label.often")
    world.says("rows in sight")
    do.key(Keys.ESCAPE)
    seen = do.hands.number("of [\\d,]+ rows in sight")
    do.click("Export the table")
    do.click_text("CSV, ")
    downloads = do.hands.driver.downloads
    file = do.hands.wait(lambda: next(iter(downloads.glob("*.csv")), None), "no file came")
    lines = do.hands.wait(lambda: file.read_text("utf-8-sig").splitlines(), "the file is empty")
    file.unlink()
    assert len(lines) == 1 + seen


def another_key(world):
    """A key is refused; another one is put in, and the refresh goes through."""
    do = world.do
    world.go("/query/1")
    world.says("snapshots", "header")
    world.company.operations.key = "skw-demo-another-one"
    do.click("Refresh")
    world.says("key", "main")
    do.paste("input[name=secret-key]", "skw-demo-another-one")
    do.key(Keys.ENTER)
    world.says("the last run was complete", "footer")


def what_changed(world):
    """What is new, gone and changed since the snapshot before."""
    do = world.do
    world.go("/query/1")
    do.click("Compare")
    world.says("new")
    world.says("changed")


@dataclass(frozen=True)
class Job:
    """A job with the most clicks and keys that it may take."""

    run: Callable[[World], None]
    clicks: int
    keys: int
    furnished: bool = False

    @property
    def name(self):
        return (self.run.__doc__ or "").strip()


JOBS = [
    Job(whole_table, 8, 2),
    Job(looked_up, 14, 6),
    Job(six_fields, 12, 2),
    Job(by_keyboard, 0, 60),
    Job(three_values, 10, 3),
    Job(read_as_date, 8, 14),
    Job(another_value, 4, 0, furnished=True),
    Job(filtered_export, 4, 2, furnished=True),
    Job(another_key, 2, 3, furnished=True),
    Job(what_changed, 1, 0, furnished=True),
]


@dataclass
class Done:
    """How a job went."""

    job: Job
    clicks: int
    keys: int
    seconds: float


def do(job, hands, company):
    """Do a job from its beginning; gives what it took."""
    counted = Counted(hands)
    began = time.perf_counter()
    job.run(World(counted, company))
    return Done(job, counted.clicks, counted.keys, time.perf_counter() - began)


def table(done):
    """What was done, as rows of a table in Markdown."""
    yield "| Job | Clicks | Keys | Seconds |"
    yield "|---|---|---|---|"
    for one in done:
        yield f"| {one.job.name} | {one.clicks} | {one.keys} | {one.seconds:.1f} |"
