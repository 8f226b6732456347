"""Notices over the API: kept, tried, and never with a secret in the answer but once."""

import pytest

from tests.receiving import server_of
from tin_bucket.demo.services.receiver import PASSWORD

MAIL = {"by": "mail", "addresses": ["desk@skerrywick.example"]}


def test_a_notice_is_kept_tried_and_deleted(client, receiver):
    told = client.put("/api/notices/mail", json={"server": server_of(receiver), "password": PASSWORD})
    assert told.json()["has_password"]
    assert PASSWORD not in told.text
    hook = {"by": "hook", "address": f"{receiver.base}/hook"}
    notice = {"name": "Broken", "cause": {"why": "refresh"}, "to": [MAIL, hook]}
    assert "A trial of “Broken”" in client.post("/api/notices/preview", json={"notice": notice}).json()["text"]
    made = client.post("/api/notices", json={"notice": notice})
    (secret,) = made.json()["secrets"]
    number = made.json()["notice"]["id"]
    assert len(secret["secret"]) > 30
    all_of_it = client.get("/api/notices")
    assert secret["secret"] not in all_of_it.text
    assert all_of_it.json()["notices"][0]["words"] == "when a refresh fails or is incomplete"
    assert all_of_it.json()["notices"][0]["hooks"] == [{"address": hook["address"], "has_secret": True}]
    sent = client.post(f"/api/notices/{number}/trial").json()
    assert {one["state"] for one in sent["messages"]} == {"sent"}
    assert sorted(one.by for one in receiver.came) == ["mail", "web hook"]
    # Another cause begins anew; the secret stays.
    changed = {**notice, "cause": {"why": "key", "days": 3}}
    assert client.put(f"/api/notices/{number}", json={"notice": changed}).json()["secrets"] == []
    assert client.delete(f"/api/notices/{number}").status_code == 204
    assert client.post(f"/api/notices/{number}/trial").status_code == 404
    # What was sent stays in the log.
    assert len(client.get("/api/notices").json()["messages"]) == 2


def test_what_fails_is_told_and_sent_once_more_by_hand(client, receiver):
    client.put("/api/notices/mail", json={"server": server_of(receiver), "password": "wrong"})
    made = client.post("/api/notices", json={"notice": {"name": "n", "cause": {"why": "key"}, "to": [MAIL]}}).json()
    (message,) = client.post(f"/api/notices/{made['notice']['id']}/trial").json()["messages"]
    assert message["problem"]["what"] == "The mail server refuses the user or the password."
    assert message["next_try"]
    client.put("/api/notices/mail", json={"server": server_of(receiver), "password": PASSWORD})
    (message,) = client.post(f"/api/notices/messages/{message['id']}/again").json()["messages"]
    assert (message["state"], message["tries"], message["problem"]) == ("sent", 2, None)
    client.put("/api/notices/mail", json={"server": None})
    (message, _) = client.post(f"/api/notices/{made['notice']['id']}/trial").json()["messages"]
    assert message["problem"]["kind"] == "mail-unset"


@pytest.mark.parametrize(
    ("notice", "words"),
    [
        ({"cause": {"why": "refresh"}, "to": []}, ""),
        ({"cause": {"why": "refresh"}, "to": [{"by": "mail", "addresses": ["nobody"]}]}, "nobody"),
        ({"cause": {"why": "time"}, "to": [MAIL]}, "choose one"),
        ({"cause": {"why": "rain"}, "to": [MAIL]}, ""),
    ],
)
def test_what_is_no_notice_is_refused_in_words(client, notice, words):
    answer = client.post("/api/notices", json={"notice": {"name": "n", **notice}})
    assert answer.status_code == 422
    assert words in answer.text
    assert "pydantic" not in answer.text
