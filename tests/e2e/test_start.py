"""A new data folder without the demo: the app says what to do, and the first collection can be worked in."""

from playwright.sync_api import Browser, expect

from server import serving


def test_the_first_collection_is_started_from_an_empty_app(browser: Browser, tmp_path):
    with serving(tmp_path) as running:
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        try:
            page.goto(running.url)
            page.get_by_role("button", name="Start a collection").click()
            page.get_by_label("Name").fill("Wet weather")
            page.get_by_role("button", name="Start it").click()
            page.get_by_label("Subjects").fill("Umbrella")
            page.get_by_label("Subjects").blur()
            expect(page.get_by_role("button", name="Collection: Wet weather")).to_be_visible()
            expect(page.get_by_text("Laser engraving").first).to_be_visible()
        finally:
            page.close()
        (made,) = running.client.get("/collections").json()
        assert made["name"] == "Wet weather"
