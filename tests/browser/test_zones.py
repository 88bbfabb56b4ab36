"""Zones from the survey to what their probes read."""

from django.test import tag
from playwright.sync_api import expect

from tests.browser.base import BrowserCase


@tag("browser")
class ZonesTest(BrowserCase):
    def test_a_numbered_sensor_in_the_card_s_intake_shows_in_its_zone(self) -> None:
        self.open_demo("survey")
        page = self.page
        page.get_by_role("button", name="Add the usual four").click()
        expect(page.locator("[data-zone]")).to_have_count(4)
        box = page.locator("[data-rows=zones] [data-row=card_intake]")
        expect(box.get_by_label("Name")).to_have_value("card intake")
        low = float(box.get_by_label("Over the floor").input_value())
        front = float(box.get_by_label("From the front").input_value())
        page.get_by_role("button", name="Add a point").click()
        point = page.locator("[data-rows=points] [data-row]").first
        for label, value in (("From the front", front + 40), ("Over the floor", low + 30), ("Sensor no.", 7)):
            point.get_by_label(label).fill(f"{value:.0f}")
            point.get_by_label(label).press("Enter")
        expect(page.get_by_text("all saved")).to_be_visible()
        base = page.url.rsplit("/", 1)[0]
        job = base.rsplit("/", 1)[1]
        readings = [{"channel": "cpu_package_c", "value": 70.0}, {"channel": "air_7_c", "value": 29.5}]
        body = {"layout": "A", "readings": readings, "room_c": 22.0, "minutes": 60, "stood_still": True}
        site = f"{self.live_server_url}/api/jobs/{job}"
        answer = page.request.post(f"{site}/runs/by-hand", data=body)
        self.assertEqual(answer.status, 201, answer.text())
        page.goto(f"{base}/verdict")
        page.get_by_role("button", name="Probes").click()
        self.tag("A").click()
        row = page.locator("[data-zone-read=card_intake]")
        expect(row).to_contain_text("one probe")
        expect(row).to_contain_text("7.5")
        expect(page.locator("[data-zone-read=rear_top]")).to_have_count(0)
        page.goto(f"{base}/plan")
        expect(page.locator("[data-point-row]")).to_contain_text("in card intake")
        page.get_by_text("Acceptance: limits over room").click()
        page.get_by_label("Another channel").select_option(label="every probe in card intake")
        expect(page.get_by_text("Acceptance: limits over room (1)")).to_be_visible()
        self.saved()
        protocols = page.request.get(site).json()["document"]["protocols"]
        self.assertEqual([c["channel"] for p in protocols for c in p.get("criteria", [])], ["air_7_c"])
