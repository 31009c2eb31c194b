"""Only this machine, only this origin, nothing from elsewhere on the page."""

import pytest

OURS = ["127.0.0.1:8417", "localhost:8417"]


@pytest.mark.parametrize("host", OURS)
def test_our_own_names_are_served(app, host):
    assert app.client.get("/api/scene", headers={"Host": host}).status_code == 200


@pytest.mark.parametrize(
    "host", ["example.org", "127.0.0.1", "127.0.0.1:80", "127.0.0.1.example.org:8417", "192.168.0.7:8417", ""]
)
def test_foreign_hosts_are_refused(app, host):
    reply = app.client.get("/api/scene", headers={"Host": host})
    assert (reply.status_code, reply.json()["code"]) == (403, "refused")


@pytest.mark.parametrize(
    "origin", ["http://example.org", "https://127.0.0.1:8417", "http://127.0.0.1:9999", "null"]
)
@pytest.mark.parametrize("method", ["GET", "POST", "OPTIONS"])
def test_foreign_origins_are_refused(app, origin, method):
    reply = app.client.request(method, "/api/collections", headers={"Origin": origin})
    assert reply.status_code == 403
    assert "access-control-allow-origin" not in reply.headers


def test_our_own_origin_is_served(app):
    assert app.client.get("/api/scene", headers={"Origin": "http://127.0.0.1:8417"}).status_code == 200


@pytest.mark.parametrize("path", ["/", "/api/scene", "/api/nothing", "/assets/nothing.js"])
def test_every_reply_carries_the_policy(app, path):
    headers = app.client.get(path).headers
    policy = headers["content-security-policy"]
    assert "default-src 'none'" in policy and "script-src 'self';" in policy
    assert "unsafe-inline" not in policy and "unsafe-eval" not in policy and "http:" not in policy
    assert headers["x-content-type-options"] == "nosniff" and headers["referrer-policy"] == "no-referrer"


def test_the_page_has_a_fresh_nonce_that_matches_its_policy(app):
    pages = [app.client.get("/") for _ in range(2)]
    nonces = []
    for page in pages:
        assert page.status_code == 200
        nonce = page.headers["content-security-policy"].split("'nonce-")[1].split("'")[0]
        assert f'content="{nonce}"' in page.text
        nonces.append(nonce)
    assert nonces[0] != nonces[1]


def test_the_page_names_nothing_from_elsewhere(app):
    page = app.client.get("/").text
    assert "http" not in page.replace("http-equiv", "")
