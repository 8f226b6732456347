"""Keys that are named in a text of any kind, and data that only looks like it."""

import pytest

from tin_bucket.core.masking.looks import secrets_in

K = "k9f3a2b1c9d4e5f60718"


@pytest.mark.parametrize(
    ("text", "where"),
    [
        (f"GET the ports\nAuthorization: Bearer {K}\nthen read", ["line 2: Authorization"]),
        ("curl_setopt($c, X);\n$headers['X-Api-Key'] = 'harbour-1';", ["line 2: X-Api-Key"]),
        (f"api_key = '{K}'\nurl = base", ["line 1: api_key"]),
        ('{"user": "ann",\n "password": "a-long-password"}', ["line 2: password"]),
        (f"key: {K}{K}", ["line 1: key"]),
        # Data.
        ("key\tname\nSKY-1\tSkerry\nSKY-2\tWick", []),
        ("key: SKY-1\nkey: SKY-2", []),
        ('[{"key": "PROJ-1", "sort_key": "abcdefgh"}]', []),
        ("token: $TOKEN\npassword: ${PASS}", []),
        ("code,name\nHSD,Harl Sound", []),
        ("auth: https://api.example/sign-in", []),
    ],
)
def test_a_key_is_told_by_its_name_and_line_and_never_by_its_text(text, where):
    found = secrets_in(text)
    assert found == where
    assert K not in str(found)
