"""Takes the pictures in docs/screenshots from a fresh demo on Tuesday 9 March 2027, 08:30: `make screenshots`."""

import re
import tempfile
from pathlib import Path

from playwright.sync_api import sync_playwright

from nod.services.people.sign_in import DEMO_PASSWORD
from tests.browser.conftest import CHROMIUM, EMAILS, FLAGS, Served
from tests.world import pdf

TARGET = Path(__file__).resolve().parents[2] / "docs/screenshots"

PILES = """The results of the pile tests are attached. Pile 14 will be tested again on Friday.

On Mon, 8 Mar 2027 at 16:10, Marit Osei wrote:
> When do we get the pile tests of the north linkspan?

-- 
Otto Brenner
Kestrel Piling"""


class Camera:
    def __init__(self, nod, browser):
        self.nod, self.browser = nod, browser

    def sit(self, who="", scheme="light"):
        context = self.browser.new_context(
            viewport={"width": 1280, "height": 800}, locale="en-GB", timezone_id="Europe/London",
            reduced_motion="reduce", color_scheme=scheme,
        )  # fmt: skip
        page = context.new_page()
        if who:
            data = {"email": EMAILS[who], "password": DEMO_PASSWORD}
            context.request.post(f"{self.nod.url}/api/sign-in", data=data)
        page.goto(self.nod.url)
        return page

    def take(self, page, name, path=None, *clicks):
        if path:
            page.goto(self.nod.url + path)
        for words in clicks:
            page.get_by_text(words, exact=True).first.click()
        page.wait_for_load_state("networkidle")
        page.wait_for_timeout(900)
        page.screenshot(path=TARGET / f"{name}.png")


def take_all(camera):
    marit = camera.sit("marit")
    camera.take(marit, "desk")
    camera.take(marit, "intake", "/intake")
    intake(camera, marit)
    camera.take(marit, "register", "/register?group=discipline", "Quay hall, ground floor plan")
    talk(camera, marit)
    marit.get_by_role("link", name="Open the sheet", exact=True).click()
    camera.take(marit, "sheet", None, "Which fire rating does this partition have?")
    marit.keyboard.press("Escape")
    marit.keyboard.press("c")
    marit.get_by_role("complementary", name="Changed places").wait_for()
    marit.keyboard.press("n")
    marit.wait_for_timeout(1500)
    camera.take(marit, "compare")
    mail(camera, marit)
    camera.take(marit, "slip", "/reviews", "Quay hall compartments")
    camera.take(marit, "letters", "/letters", "Base plates, grout under columns C4 to C9")
    camera.take(marit, "submittals", "/submittals")
    camera.take(marit, "transmittal", "/transmittals", "HBC-T-0001")
    camera.take(marit, "holders", "/transmittals/holders?state=held")
    camera.take(marit, "audit", "/audit")
    set_up(camera)
    saoirse = camera.sit("saoirse")
    meet(camera, marit, saoirse)
    camera.take(saoirse, "verdicts", "/reviews", "Quay hall lighting", "Answer on the sheets")
    marit.goto(camera.nod.url + "/post-room")
    marit.get_by_role("button").filter(has_text="yusuf@").filter(has_text="HBC-T-0001: 3 documents").last.click()
    link = marit.get_by_role("article").get_by_role("link").get_attribute("href")
    guest = camera.sit()
    guest.goto(link)
    guest.get_by_role("button", name="Open it").click()
    camera.take(guest, "guest")


def meet(camera, marit, saoirse):
    """Four in the room, one of whom looks closely at a corner of the sheet."""
    for page in (marit, saoirse, camera.sit("dede"), camera.sit("kwabena")):
        page.goto(camera.nod.url + "/sessions")
        page.get_by_text("Level 1, what hangs below").first.click()
        page.get_by_role("button", name="Go in").click()
        page.get_by_role("toolbar", name="Pens").wait_for()
    for _ in range(3):
        saoirse.keyboard.press("+")
    marit.wait_for_timeout(2500)
    camera.take(marit, "session")


def mail(camera, marit):
    """Two mails from outside: one of somebody unknown, one that begins a thread."""
    project = marit.context.request.get(f"{camera.nod.url}/api/me").json()["projects"][0]["id"]
    box = marit.context.request.get(f"{camera.nod.url}/api/mail?project_id={project}").json()
    for name, address, subject, text in (
        ("Yusuf Haldane", "yusuf@sparrowgate.example", "Delivery on Thursday", "The truck comes on Thursday at seven."),
        ("Otto Brenner", "otto@kestrelpiling.example", "Pile test results, north linkspan", PILES),
    ):
        marit.goto(camera.nod.url + "/post-room")
        marit.get_by_role("button", name="Write from outside").click()
        for label, words in (("From, name", name), ("From, address", address), ("To", box["address"]),
                             ("Subject", subject), ("Text", text)):  # fmt: skip
            marit.get_by_label(label, exact=True).fill(words)
        files = [{"name": "pile tests.pdf", "mimeType": "application/pdf", "buffer": pdf("Pile tests")}]
        marit.locator("input[type=file]").set_input_files(files=files if "Pile" in subject else [])
        marit.get_by_role("button", name="Send to Nod").click()
        marit.get_by_text("mail server took it").wait_for()
    marit.goto(camera.nod.url + "/mail")
    marit.get_by_text("Pile test results").first.wait_for()
    camera.take(marit, "mail")


def talk(camera, marit):
    leilani = camera.sit("leilani")
    leilani.goto(camera.nod.url + "/register?words=ground+floor+plan")
    for page, words in ((leilani, "@Marit Osei which datum are the levels on?"), (marit, "Port datum, as surveyed.")):
        page.get_by_text("Quay hall, ground floor plan").first.click()
        page.get_by_role("tab", name=re.compile("^Talk")).click()
        if page is marit:
            page.get_by_label("Files to attach").set_input_files(
                {"name": "Levels at the quay.pdf", "mimeType": "application/pdf", "buffer": pdf("Levels")}
            )
            page.get_by_role("button", name=re.compile("^Take Levels")).wait_for()
        page.get_by_role("textbox", name="Say something").fill(words)
        page.get_by_role("button", name="Say it").click()
        page.get_by_role("log").get_by_text(words).wait_for()
    marit.get_by_role("list", name="Attached files").locator("img").wait_for()
    marit.get_by_role("textbox", name="Say something").press_sequentially("Thank you, @le")
    marit.get_by_role("textbox", name="Say something").fill("")
    marit.get_by_role("tab", name="Now").click()


def intake(camera, marit):
    marit.get_by_role("button", name=re.compile("^Silent change: BFT-PLS-Z1-RF")).click()
    marit.get_by_role("tab", name=re.compile("Changes")).click()
    marit.get_by_role("img", name=re.compile("Place 1")).evaluate("image => image.decode()")
    camera.take(marit, "intake-changes")
    marit.get_by_role("link", name="Read title blocks").click()
    marit.get_by_role("button", name="Lower right corner").click()
    marit.get_by_text(re.compile("pages read whole")).wait_for()
    marit.wait_for_timeout(1500)
    camera.take(marit, "title-blocks")


def set_up(camera):
    rafael = camera.sit("rafael")
    rafael.goto(camera.nod.url + "/setup/access")
    rafael.get_by_role("gridcell", name=re.compile("^Ottilie Vestergaard, Architecture")).click()
    for key in ("Shift+ArrowDown", "Shift+ArrowDown", "1"):
        rafael.keyboard.press(key)
    rafael.get_by_text(re.compile("levels change for")).wait_for()
    camera.take(rafael, "access")
    rafael.goto(camera.nod.url + "/reviews/routes")
    rafael.get_by_role("button", name=re.compile("^Fire, client and structure, then the lead")).click()
    camera.take(rafael, "route")


def main():
    with tempfile.TemporaryDirectory() as name, sync_playwright() as playwright:
        nod = Served(Path(name) / "data")
        nod.make_demo()
        nod.start()
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS.split())
        take_all(Camera(nod, browser))
        browser.close()
        nod.stop()


if __name__ == "__main__":
    main()
