"""One working day at Brackwater, as four people and an outsider, from a dropped file to the proof."""

import re
import zipfile

import bagit
import pytest
from playwright.sync_api import expect

from nod.demo.sheets.drawing import draw_sheet
from nod.demo.sheets.frame import Issue, SheetSpec
from tests.browser.frame import station

pytestmark = pytest.mark.browser

STAIRS, ROOF = "BFT-TRA-Z1-02-D-A-0171", "BFT-TRA-Z1-RF-D-A-0172"
WRONG_ROOF = ROOF.replace("-D-A-", "-D-X-")
SILENT = "BFT-TRA-Z1-RF-D-A-0102"


@pytest.fixture
def files(tmp_path):
    """Two new sheets, one with a wrong discipline, and one that changed under the same revision."""
    made = []
    for number, title in (
        (STAIRS, "Quay hall, stairs"),
        (WRONG_ROOF, "Quay hall, roof edge"),
        (SILENT, "Quay hall, roof plan"),
    ):
        issue = Issue("P01", "S3", "9 Mar 2027", "First issue")
        target = tmp_path / f"{number}_P01_S3_{title}.pdf"
        draw_sheet(
            target,
            SheetSpec(number, title + ".", "Tallow Reed Architects", "A1", "1:100", (issue,), "S. T."),
            "plan 00",
        )
        made.append(target)
    return made


def take_in(marit, files):
    station(marit, "Intake")
    marit.get_by_label("Files to take in").set_input_files(files)
    expect(marit.get_by_text("3 of 3 taken in")).to_be_visible()
    silent = marit.get_by_role("row").filter(has_text="Silent change")
    expect(silent).to_contain_text("already in the register with other content")
    wrong = marit.get_by_role("row").filter(has_text="Field discipline is “X”")
    expect(wrong).to_contain_text("Nearest: A (Architecture)")
    marit.get_by_role("button", name="Register 1, hold 2").click()
    expect(marit.get_by_text("1 registered, 0 already there, 2 held with a reason.")).to_be_visible()
    wrong.get_by_role("button", name=re.compile("Field discipline")).click()
    panel = marit.get_by_role("complementary", name=re.compile("^About"))
    expect(panel).to_contain_text("Held since")
    panel.get_by_role("button", name=f"Take {ROOF}").click()
    marit.get_by_role("button", name="Register 1, hold 1").click()
    marit.get_by_role("button", name=re.compile("that have left Intake")).click()
    left = marit.get_by_role("region", name="Files that have left Intake")
    expect(left.get_by_role("row").filter(has_text=ROOF)).to_contain_text("Registered")


def mark_up(leilani, anouk):
    """Leilani draws in pencil, which Anouk does not see, and inks, which she sees at once."""
    for page in (leilani, anouk):
        station(page, "Register")
        page.get_by_label("Filter by number, title or field").fill("stairs")
        expect(page.get_by_text("1 document", exact=True)).to_be_visible()
        page.get_by_text(STAIRS).dblclick()
        expect(page.get_by_role("heading", name="Quay hall, stairs")).to_be_visible()
        expect(page.get_by_text("Nobody has marked this revision")).to_be_visible()
    sheet = leilani.get_by_test_id("sheet").bounding_box()
    middle = (sheet["x"] + sheet["width"] / 2, sheet["y"] + sheet["height"] / 2)
    leilani.get_by_role("button", name="Cloud").click()
    leilani.mouse.move(*middle)
    leilani.mouse.down()
    leilani.mouse.move(middle[0] + 120, middle[1] + 80, steps=4)
    leilani.mouse.up()
    leilani.get_by_label("Text of the mark").fill("Headroom under the flight?")
    leilani.get_by_label("Text of the mark").press("Enter")
    expect(leilani.get_by_text("Only you see these.")).to_be_visible()
    expect(leilani.get_by_role("button", name="Text kept")).to_be_visible()
    expect(anouk.get_by_text("Headroom")).to_have_count(0)
    leilani.get_by_role("button", name="Ink 1 mark").click()
    expect(anouk.get_by_text("Headroom under the flight?")).to_be_visible()
    expect(anouk.locator("svg [data-mark]")).to_have_count(1)

    anouk.get_by_text("Headroom under the flight?").click()
    anouk.get_by_label("Reply", exact=True).fill("2.20 m at the landing.")
    anouk.get_by_role("button", name="Reply").click()
    expect(leilani.get_by_text("2.20 m at the landing.")).to_be_visible()
    anouk.get_by_role("button", name="Agreed").click()
    expect(leilani.get_by_role("button", name="Agreed")).to_have_attribute("aria-pressed", "true")


def start_review(marit):
    station(marit, "Register")
    marit.get_by_label("Filter by number, title or field").fill("quay roof edge")
    expect(marit.get_by_text("1 document", exact=True)).to_be_visible()
    marit.get_by_role("grid").get_by_label("Mark this line").check()
    marit.get_by_label("Filter by number, title or field").fill("017")
    marit.get_by_label("Filter by number, title or field").fill("stairs")
    expect(marit.get_by_text(STAIRS)).to_be_visible()
    marit.get_by_label("Filter by number, title or field").fill("quay hall, s")
    expect(marit.get_by_text(STAIRS)).to_be_visible()
    marit.get_by_role("row").filter(has_text=STAIRS).get_by_label("Mark this line").check()
    expect(marit.get_by_text("2 marked")).to_be_visible()
    marit.get_by_role("button", name="Start a review").click()
    marit.get_by_label("Name").fill("Stairs and roof edge")
    marit.get_by_label("Route", exact=True).select_option(label="Check and decide")
    expect(marit.get_by_role("region", name="The path")).to_contain_text("by 12 Mar")
    marit.get_by_role("button", name="Send 2 on the route").click()
    expect(marit.get_by_role("region", name="Routing slip")).to_contain_text("any one of Leilani Brandt (PLS)")
    return marit.get_by_role("complementary", name="Review").locator("p").first.text_content().split()[0]


def check(leilani, anouk, number):
    """Leilani picks it up; Anouk sees who has it; the comments go on to the next step."""
    station(leilani, "Desk")
    line = leilani.get_by_role("region", name="Yours now").get_by_role("listitem").filter(has_text=number)
    line.get_by_role("link", name="Pick up").click()
    leilani.get_by_role("button", name="Pick up").click()
    expect(leilani.get_by_text("It is with you. Others see that you have it.")).to_be_visible()
    station(anouk, "Reviews")
    row = anouk.get_by_role("row").filter(has_text=number)
    expect(row).to_contain_text("Leilani Brandt")
    row.click()
    expect(anouk.get_by_role("region", name="Routing slip")).to_contain_text("Leilani Brandt")
    expect(anouk.get_by_role("button", name="Pick up")).to_have_count(0)
    leilani.get_by_label(f"Comment on {STAIRS}").fill("Headroom agreed on the sheet.")
    leilani.get_by_role("button", name="Hand in comments").click()
    expect(leilani.get_by_role("region", name="Routing slip")).to_contain_text("commented")
    expect(anouk.get_by_role("region", name="Routing slip")).to_contain_text("Saoirse Tanaka")


def decide(saoirse, number):
    station(saoirse, "Desk")
    line = saoirse.get_by_role("region", name="Yours now").get_by_role("listitem").filter(has_text=number)
    line.get_by_role("link", name="Hand in verdicts").click()
    expect(saoirse.get_by_text("Headroom agreed on the sheet.")).to_be_visible()
    hand_in = saoirse.get_by_role("button", name="Hand in verdicts")
    expect(hand_in).to_be_disabled()
    saoirse.get_by_role("button", name="A proceed for all", exact=True).click()
    saoirse.get_by_role("radiogroup", name=f"Verdict on {STAIRS}").get_by_text("proceed as noted").click()
    hand_in.click()
    expect(saoirse.get_by_text("Not sent out yet.")).to_be_visible()


def send_out(marit, number):
    station(marit, "Desk")
    line = marit.get_by_role("region", name="Yours now").get_by_role("listitem").filter(has_text=number)
    line.get_by_role("link", name="Send out").click()
    marit.get_by_role("button", name="Send out").click()
    marit.get_by_label("Yusuf Haldane").check()
    marit.get_by_label("Anouk Ferreira").check()
    marit.get_by_label("Purpose of issue").select_option("construction")
    marit.get_by_label("Covering note").fill("Please cut the stringers after these.")
    expect(marit.get_by_text("Anouk Ferreira, Yusuf Haldane will get a mail")).to_be_visible()
    marit.get_by_role("button", name="Send to 2").click()
    expect(marit.get_by_role("button", name=re.compile("All of it, ZIP"))).to_be_visible()
    heading = marit.get_by_role("complementary", name="Transmittal").get_by_role("heading", level=2)
    return heading.text_content().split()[0]


def read_mail(marit, subject, to):
    marit.get_by_role("link", name="Post room").click()
    entry = (
        marit.get_by_role("navigation", name="Mail").get_by_role("button").filter(has_text=to).filter(has_text=subject)
    )
    expect(entry.first).to_be_visible()
    entry.first.click()
    return marit.get_by_role("article")


def receive(outsider, tmp_path, sent):
    expect(outsider.get_by_role("heading")).to_have_text("A transmittal for Yusuf Haldane")
    outsider.get_by_role("button", name="Open it").click()
    expect(outsider.get_by_role("heading", name=f"Transmittal {sent}")).to_be_visible()
    expect(outsider.get_by_role("list", name="Documents").get_by_role("listitem")).to_have_count(2)
    with outsider.expect_download() as download:
        outsider.get_by_role("button", name=re.compile("Download all")).click()
    target = tmp_path / "pack.zip"
    download.value.save_as(target)
    with zipfile.ZipFile(target) as pack:
        assert {f"{sent}/data/{each}_P01_S3.pdf" for each in (STAIRS, ROOF)} < set(pack.namelist())
        pack.extractall(tmp_path)
    bagit.Bag(str(tmp_path / sent)).validate()
    outsider.get_by_role("button", name="Acknowledge that I have it").click()
    expect(outsider.get_by_text(re.compile("Acknowledged 9 March 2027"))).to_be_visible()


def prove(marit, sent):
    station(marit, "Transmittals")
    marit.get_by_role("row").filter(has_text=sent).click()
    recipient = marit.get_by_role("region", name="Recipients").get_by_role("row").filter(has_text="Yusuf Haldane")
    expect(recipient).to_contain_text("outside contact")
    expect(recipient.get_by_text("not yet")).to_have_count(0)
    station(marit, "Audit")
    marit.get_by_label("Person").select_option(label="Yusuf Haldane")
    marit.get_by_label("Act", exact=True).select_option(label="acknowledged a transmittal")
    # What stood there before the filter goes a moment later.
    expect(marit.get_by_role("region", name="Entries").get_by_role("row").filter(has_text=sent)).to_have_count(1)
    station(marit, "Register")
    marit.get_by_label("Filter by number, title or field").fill("stairs")
    expect(marit.get_by_text("1 document", exact=True)).to_be_visible()
    marit.get_by_role("row").filter(has_text=STAIRS).click()
    dossier = marit.get_by_role("complementary", name="Dossier")
    expect(dossier.get_by_role("definition").filter(has_text="proceed as noted")).to_be_visible()
    dossier.get_by_role("tab", name="Trail").click()
    for words in ("filed a revision", "inked a mark", "started a review", "handed in verdicts", "sent a transmittal"):
        expect(dossier.get_by_role("listitem").filter(has_text=words)).to_be_visible()


def test_a_whole_day(nod, visit, files, tmp_path):
    marit, leilani, anouk, saoirse = (visit(who) for who in ("marit", "leilani", "anouk", "saoirse"))
    take_in(marit, files)
    mark_up(leilani, anouk)
    number = start_review(marit)
    asked = read_mail(marit, number, "leilani@plinthwork.example")
    expect(asked).to_contain_text("Pick it up first, so that nobody does it twice.")
    mails = marit.get_by_role("navigation", name="Mail").get_by_role("button").filter(has_text=number)
    expect(mails).to_have_count(3)
    check(leilani, anouk, number)
    expect(mails).to_have_count(4)
    decide(saoirse, number)
    expect(mails).to_have_count(5)
    sent = send_out(marit, number)
    mail = read_mail(marit, sent, "yusuf@sparrowgate.example")
    link = mail.get_by_role("link").get_attribute("href")
    receive(visit(path=link.removeprefix(nod.url)), tmp_path, sent)
    prove(marit, sent)
    verified = nod.verify()
    assert verified.returncode == 0, verified.stdout
    assert re.match(r"\d+ entries verified, root [0-9a-f]{64}", verified.stdout)
