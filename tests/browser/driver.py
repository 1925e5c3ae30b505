"""A real browser, and the words in which the tests drive it."""

from __future__ import annotations

import atexit
import shutil
import tempfile
import time
import unittest
from collections.abc import Callable
from contextlib import ExitStack
from functools import cache
from typing import Any, TypeVar

import httpx
from psutil import Process
from selenium.common.exceptions import StaleElementReferenceException, WebDriverException
from selenium.webdriver import ActionChains, Chrome, Keys
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import Select

from golddice.core.game.editing import Entities
from golddice.server.bench import Workbench
from tests.games import DEMO, demo
from tests.support import running_server

_FLAGS = [
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--hide-scrollbars",
    # Pages that were left would be kept, and cost as much as the one that is looked at.
    "--disable-features=BackForwardCache,SpareRendererForSitePerProcess",
]
_CELLS = """
return [...document.querySelectorAll(arguments[0])]
  .map((row) => [...row.querySelectorAll('td')].map((cell) => cell.innerText.trim()))
"""
_SHORTEST, _LONGEST = 0.03, 0.2  # seconds between two looks at what is waited for
T = TypeVar("T")
# Held for as long as the tests run, so that what was worked out of its parts is found again in every copy.
_DEMO = Entities.of(demo())


def start_browser(width: int = 1280, height: int = 800, *more: str) -> Chrome:
    options, profile = Options(), tempfile.mkdtemp(prefix="golddice-browser-")
    atexit.register(shutil.rmtree, profile, ignore_errors=True)
    for flag in [*_FLAGS, *more, f"--window-size={width},{height}", f"--user-data-dir={profile}"]:
        options.add_argument(flag)
    options.binary_location = "/usr/bin/chromium"
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    browser = Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    sized(browser, width, height)
    return browser


def kill_pages(browser: Chrome) -> None:
    """Ends what draws its pages, at once, as the system does where memory is short."""
    running = {process.pid: process for process in Process(browser.service.process.pid).children(True)}
    for process in running.values():
        if "--type=renderer" in process.cmdline():
            process.kill()


@cache
def the_browser() -> Chrome:
    """The one that all tests of a process share: to start it takes longer than most of them."""
    # A page that is there for a second is not worth the work of a second compiler.
    browser = start_browser(1280, 800, "--js-flags=--max-opt=1")
    atexit.register(browser.quit)
    return browser


@cache
def _the_server() -> tuple[str, Workbench]:
    """The one of a process, at one address."""
    running = ExitStack()
    found = running.enter_context(running_server(module="tests.browser"))
    atexit.register(running.close)
    return found


def sized(browser: Chrome, width: int = 1280, height: int = 800) -> None:
    size = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
    browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)


class PageTest(unittest.TestCase):
    """The words; who opens the browser, and on what, is up to the class."""

    browser: Chrome
    address: str
    game: str

    def open(self, path: str) -> None:
        """Open a sheet of the test's game and wait until it is there, the keyboard on no field."""
        self.browser.get(f"{self.address}/g/{self.game}/{path}")
        self.find("main")
        # Its code is fetched when it is first opened, and an address is followed before anything is drawn.
        self.until("its sheet", lambda: not self.all("main [data-coming]"))
        self.answered()

    def answered(self, seconds: float = 3) -> None:
        """Wait until what a sheet asks is answered, but not for long: some answers are slow.

        A click that is aimed while answers come can miss, for they move what stands below them.
        """
        end = time.monotonic() + seconds
        while self.all("main[aria-busy=true]") and time.monotonic() < end:
            time.sleep(_SHORTEST)

    def until(self, what: str, check: Callable[[], T], seconds: float = 40) -> T:
        """The first true answer; fails with `what` after so many seconds: a machine has slow hours."""
        end, pause = time.monotonic() + seconds, _SHORTEST
        while time.monotonic() < end:
            try:
                found = check()
                if found:
                    return found
            except (StaleElementReferenceException, WebDriverException):
                pass
            # To ask costs the page as much as what it is waited for: seldom, where it takes long.
            time.sleep(pause)
            pause = min(_LONGEST, 1.5 * pause)
        picture = f"{tempfile.gettempdir()}/golddice-{self.id().rsplit('.', 1)[-1]}.png"
        self.browser.save_screenshot(picture)
        self.fail(f"never came: {what}; see {picture}")

    def find(self, selector: str, within: WebElement | None = None) -> WebElement:
        place = within or self.browser
        return self.until(selector, lambda: place.find_element(By.CSS_SELECTOR, selector))

    def all(self, selector: str) -> list[WebElement]:
        return self.browser.find_elements(By.CSS_SELECTOR, selector)

    def button(self, text: str) -> WebElement:
        path = (
            f"//button[contains(normalize-space(.), '{text}')] | //*[@role='menuitem'][contains(., '{text}')]"
        )
        return self.until(f"button {text}", lambda: self.browser.find_element(By.XPATH, path))

    def choice(self, text: str) -> WebElement:
        """An entry of the menu that is open."""
        path = f"//*[@role='menuitem'][contains(., '{text}')]"
        return self.until(f"choice {text}", lambda: self.browser.find_element(By.XPATH, path))

    def choose(self, label: str, text: str) -> None:
        self._chosen(label, lambda select: select.select_by_visible_text(text))

    def choose_value(self, label: str, value: str) -> None:
        self._chosen(label, lambda select: select.select_by_value(value))

    def _chosen(self, label: str, choose: Callable[[Select], None]) -> None:
        """Again where the field was drawn anew meanwhile."""

        def chosen() -> bool:
            choose(Select(self.labelled(label)))
            return True

        self.until(f"a choice of {label}", chosen)

    def rows(self, selector: str) -> list[list[str]]:
        """The cells of a table's body, as text; all at once, for a table can have hundreds."""

        def read() -> list[list[str]]:
            found: list[list[str]] = self.browser.execute_script(_CELLS, f"{selector} tbody tr")
            return found

        return self.until(f"rows of {selector}", read)

    def labelled(self, label: str) -> WebElement:
        return self.find(f'[aria-label^="{label}"]')

    def cell(self, row: str, column: str, grid: str = "lines of Eel catch") -> WebElement:
        return self.find(f'[aria-label="{grid}"] [data-row="{row}"] [data-column="{column}"]')

    def text(self, row: str, column: str, grid: str = "lines of Eel catch") -> str:
        label = self.cell(row, column, grid).get_attribute("aria-label") or ""
        return label.split(": ", 1)[1].replace("\u202f", "")

    def type_into(self, row: str, column: str, text: str, end: str = Keys.ENTER) -> None:
        self.cell(row, column).click()
        ActionChains(self.browser).send_keys(text).send_keys(end).perform()

    def press(self, *keys: str) -> None:
        ActionChains(self.browser).send_keys(*keys).perform()

    def chord(self, held: str, key: str) -> None:
        ActionChains(self.browser).key_down(held).send_keys(key).key_up(held).perform()

    def copied(self, copy: WebElement) -> str:
        """What is in the clipboard after a click."""
        allowed = {"origin": self.address, "permissions": ["clipboardReadWrite", "clipboardSanitizedWrite"]}
        self.browser.execute_cdp_cmd("Browser.grantPermissions", allowed)
        self.browser.execute_script("navigator.clipboard.writeText('')")
        copy.click()
        read = "navigator.clipboard.readText().then(arguments[0])"
        return str(self.until("something copied", lambda: self.browser.execute_async_script(read)))

    def saved(self, revision: int) -> None:
        """Wait until the page says that this revision is saved."""
        self.until(
            f"revision {revision}", lambda: f"revision {revision}" in self.find("header [role=status]").text
        )


class BrowserTest(PageTest):
    """Each test opens a fresh copy of the demo game."""

    bench: Workbench

    @classmethod
    def setUpClass(cls) -> None:
        cls.address, cls.bench = _the_server()
        cls.browser = the_browser()
        sized(cls.browser)
        cls.addClassCleanup(cls.left)
        cls.client = cls.enterClassContext(httpx.Client(base_url=cls.address, timeout=90))

    def setUp(self) -> None:
        self.game = self.client.post("/api/games/import", content=DEMO.read_bytes()).json()["id"]
        self.browser.get_log("browser")

    @classmethod
    def left(cls) -> None:
        """The next class finds a browser that has never been here, but for the scripts it has read."""
        cls.browser.get("about:blank")
        forgotten = {"origin": cls.address, "storageTypes": "local_storage,indexeddb"}
        cls.browser.execute_cdp_cmd("Storage.clearDataForOrigin", forgotten)

    def whole(self) -> dict[str, Any]:
        """The game as the server has it."""
        found: dict[str, Any] = self.client.get(f"/api/games/{self.game}").json()
        return found

    def table(self, name: str = "eel-catch") -> dict[str, Any]:
        found: dict[str, Any] = next(one for one in self.whole()["tables"] if one["id"] == name)
        return found

    def source(self, name: str = "lantern-eel") -> dict[str, Any]:
        found: dict[str, Any] = next(one for one in self.whole()["sources"] if one["id"] == name)
        return found

    def tearDown(self) -> None:
        self.bench.line.cancel(self.game)
        found = [entry["message"] for entry in self.browser.get_log("browser") if entry["level"] == "SEVERE"]
        self.assertEqual([text for text in found if not self.expected(text)], [], "errors in the console")

    def expected(self, message: str) -> bool:
        """Refusals that a test provokes show up as failed requests."""
        return "status of 422" in message or "status of 409" in message
