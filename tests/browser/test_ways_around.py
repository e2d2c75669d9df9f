"""Secondary paths: a first site, sorting, filter chips, a manual curve, a small window."""

import re
from pathlib import Path
from xml.etree import ElementTree

from playwright.sync_api import Page, expect

from tests.browser.conftest import PASSWORD, USER, from_menu, open_evidence


def test_a_site_of_ones_own_from_nothing(signed_in: Page, server: str, facts_file: Path) -> None:
    page = signed_in
    from_menu(page, "Add a site")
    page.get_by_label("Name").fill("Second Shop")
    page.get_by_label("Its address").fill("shop.example")
    page.get_by_role("button", name="Add the site").click()
    expect(page).to_have_url(f"{server}/second-shop/data")
    page.keyboard.press("4")
    expect(page.get_by_text("No data yet")).to_be_visible()
    page.get_by_role("button", name="Load a file").click()
    page.locator("input[type=file]").set_input_files(facts_file)
    page.get_by_role("button", name="Load into Second Shop").click()
    page.get_by_role("link", name="See where clicks are lost").click()
    expect(page.get_by_test_id("evidence")).to_contain_text("usually get")


def test_columns_that_are_not_recognised_are_chosen_by_hand(signed_in: Page, server: str, tmp_path: Path) -> None:
    page = signed_in
    odd = tmp_path / "odd.csv"
    odd.write_text("when,where,what,clicks,impressions,position\n2027-02-01,/a,kayak,1,9,2\n")
    page.goto(f"{server}/shop/data")
    page.locator("input[type=file]").set_input_files(odd)
    expect(page.get_by_text("Enter the first and last day of odd.csv")).to_be_visible()
    expect(page.get_by_role("button", name="Load into Shop")).to_be_disabled()
    for name, field in (("when", "day"), ("where", "page"), ("what", "query")):
        page.get_by_label(name, exact=True).select_option(field)
    expect(page.get_by_role("button", name="Load into Shop")).to_be_enabled()
    page.get_by_role("button", name="Preview the changes").click()
    expect(page.get_by_test_id("job")).to_contain_text("nothing is changed yet")
    page.get_by_role("button", name="Discard this file").click()
    expect(page.get_by_label("when", exact=True)).to_have_count(0)


def test_headers_sort_and_filters_are_words_that_can_be_taken_off(loaded: Page) -> None:
    page = loaded
    page.get_by_role("button", name="Striking distance").click()
    page.get_by_role("columnheader", name="position").get_by_role("button").click()
    expect(page.get_by_role("columnheader", name="position")).to_have_attribute("aria-sort", "ascending")
    expect(page.get_by_role("grid")).to_have_attribute("aria-busy", "false")
    places = [float(text) for text in page.locator("[role=row] [role=gridcell]:nth-child(7)").all_inner_texts()]
    assert places == sorted(places)
    assert len(places) > 5
    page.keyboard.press("f")
    page.get_by_label("position from").fill("6")
    page.get_by_label("to", exact=True).fill("9")
    page.get_by_role("button", name="Filter", exact=True).click()
    word = page.get_by_role("button", name="Remove the filter: position 6 to 9")
    word.click()
    expect(word).to_have_count(0)
    expect(page).not_to_have_url(re.compile("position_from"))


def test_a_curve_by_hand_and_back(loaded: Page) -> None:
    page = loaded
    page.get_by_role("button", name="set the curve").click()
    lines = page.get_by_label("Position and CTR")
    lines.fill("1 90 %\nnonsense")
    expect(page.get_by_text("at least two lines")).to_be_visible()
    lines.fill("1 90 %\n100 50 %")
    page.get_by_role("button", name="Save for this site").click()
    expect(page.get_by_test_id("evidence")).to_contain_text("This site uses its own curve")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_test_id("evidence")).to_contain_text("The curve is your site's own")


def test_a_small_window_does_not_scroll_sideways(loaded: Page) -> None:
    page = loaded
    for width in (320, 768, 2560):
        page.set_viewport_size({"width": width, "height": 800})
        page.reload()
        page.locator("[role=row][data-index]").first.wait_for()
        assert page.evaluate("document.documentElement.scrollWidth") <= width
        open_evidence(page, "evidence")
        assert page.evaluate("document.documentElement.scrollWidth") <= width


def test_signing_out_and_a_wrong_password(signed_in: Page, server: str) -> None:
    page = signed_in
    from_menu(page, "Sign out")
    expect(page).to_have_url(re.compile("sign-in"))
    page.goto(f"{server}/shop/queries?finding=outperformers")
    expect(page).to_have_url(re.compile("sign-in"))
    page.get_by_label("User name").fill(USER)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page).to_have_url(re.compile(r"/shop/queries\?finding=outperformers"))


def test_columns_are_chosen_and_ordered_and_stay_so(loaded: Page, server: str) -> None:
    page = loaded
    heads = page.get_by_role("grid").get_by_role("columnheader")
    usual = heads.all_inner_texts()
    page.get_by_role("button", name="Columns").click()
    menu = page.get_by_role("dialog", name="Columns")
    menu.get_by_label("expected clicks").check()
    menu.get_by_label("impressions", exact=True).uncheck()
    menu.get_by_role("button", name="expected clicks: earlier").click()
    page.keyboard.press("Escape")
    chosen = [name for name in usual if name != "impressions"]
    chosen.insert(-1, "expected clicks")
    expect(heads).to_have_text(chosen)
    page.reload()
    expect(heads).to_have_text(chosen)
    page.get_by_role("button", name="Columns").click()
    page.get_by_role("button", name="as usual").click()
    expect(heads).to_have_text(usual)


def test_drawing_across_the_field_picks_its_positions(loaded: Page) -> None:
    page = loaded
    page.get_by_role("button", name="Striking distance").click()
    field = page.get_by_test_id("field")
    field.locator("canvas").wait_for()
    box = field.bounding_box()
    assert box is not None
    width = box["width"] - 54  # what lies between the margins of the picture: positions 1 to 100, logarithmic
    at = [box["x"] + 40 + width * share for share in (0.39, 0.5)]  # 10 ** (2 · 0.39) = 6.0, 10 ** 1 = 10
    middle = box["y"] + box["height"] / 2
    page.mouse.move(at[0], middle)
    page.mouse.down()
    page.mouse.move(at[1], middle, steps=4)
    page.mouse.up()
    expect(
        page.get_by_role("button", name=re.compile(r"Remove the filter: position (5\.9|6|6\.1) to (9\.9|10|10\.1)"))
    ).to_be_visible()


def test_a_view_is_kept_in_the_rail_and_taken_away(loaded: Page, server: str) -> None:
    page = loaded
    page.goto(f"{server}/shop/queries?finding=striking-distance")
    page.get_by_test_id("evidence").wait_for()
    page.get_by_role("button", name="Save this view").click()
    name = page.get_by_role("dialog").get_by_label("name")
    expect(name).to_have_value("Striking distance")
    name.fill("Stars")
    page.keyboard.press("Enter")
    kept = page.get_by_role("region", name="Saved views").get_by_role("link", name="Stars")
    expect(kept).to_be_visible()
    page.keyboard.press("2")
    page.get_by_test_id("week-reading").wait_for()
    kept.click()
    expect(page).to_have_url(re.compile(r"/shop/queries\?finding=striking-distance"))
    page.get_by_role("button", name="Delete the view Stars").click()
    expect(kept).to_have_count(0)
    page.get_by_role("button", name="Restore").click()
    expect(kept).to_be_visible()


def test_the_field_leaves_as_a_drawing_that_any_program_opens(loaded: Page) -> None:
    page = loaded
    page.get_by_test_id("field").locator("canvas").wait_for()
    page.get_by_role("button", name="Save the picture: the field").press("Enter")
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="as SVG").click()
    drawing = ElementTree.fromstring(download.value.path().read_text())
    kinds = [one.tag.rpartition("}")[2] for one in drawing.iter()]
    assert "image" not in kinds  # no dots as a raster
    assert "foreignObject" not in kinds  # which only browsers show
    assert kinds.count("path") + kinds.count("circle") > 100  # a dot a query
    assert "var(" not in download.value.path().read_text()


def test_query_groups_lead_into_their_rows(loaded: Page, server: str) -> None:
    page = loaded
    page.get_by_role("button", name="Groups").click()
    expect(page.get_by_role("heading", name="No query groups yet")).to_be_visible()
    page.get_by_role("link", name="Go to Cleaning").click()
    expect(page).to_have_url(re.compile("/shop/data/cleaning"))


def test_what_makes_no_sense_in_an_address_is_passed_over(loaded: Page, server: str) -> None:
    page = loaded
    page.goto(f"{server}/shop/queries?finding=nope&view=zzz&position_from=-3&row=abc&sort=moon")
    page.get_by_test_id("evidence").wait_for()
    expect(page).to_have_title(re.compile("^Low click-through"))
    expect(page.get_by_role("button", name=re.compile("Remove the filter"))).to_have_count(0)
