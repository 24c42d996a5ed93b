"""A person at the API of a running Nod, without a browser; answers that do not come raise OSError."""

import base64
import http.client
import http.cookiejar
import json
import urllib.error
import urllib.parse
import urllib.request

from nod.services.people.sign_in import DEMO_PASSWORD


class Person:
    def __init__(self, url, email, password=DEMO_PASSWORD):
        self.url, self.csrf = url, ""
        self.jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self("POST", "/api/sign-in", {"email": email, "password": password})
        me = self("GET", "/api/me")
        self.csrf, self.project_id = me["csrf_token"], me["projects"][0]["id"]

    def __call__(self, method, path, body=None, raw=None, timeout=10):
        data = raw if raw is not None else json.dumps(body).encode() if body is not None else None
        kind = "application/json" if raw is None else "application/octet-stream"
        headers = {"X-Nod-Csrf": self.csrf, "Content-Type": kind}
        request = urllib.request.Request(self.url + path, method=method, data=data, headers=headers)
        try:
            with self.opener.open(request, timeout=timeout) as answer:
                text = answer.read()
        except http.client.HTTPException as broken:  # Broken off between its head and its end.
            raise ConnectionError(f"{method} {path}: {broken!r}") from broken
        return json.loads(text) if text else None

    def status(self, method, path, body=None):
        try:
            self(method, path, body)
        except urllib.error.HTTPError as refused:
            return refused.code, json.loads(refused.read())
        return 200, None

    def cookie(self):
        return "; ".join(f"{each.name}={each.value}" for each in self.jar)

    def upload(self, batch_id, name, content, timeout=60):
        query = urllib.parse.urlencode({"name": name})
        return self("PUT", f"/api/intake/batches/{batch_id}/files?{query}", raw=content, timeout=timeout)

    def _tus(self, method, address, headers, content=b""):
        head = {"X-Nod-Csrf": self.csrf, "Tus-Resumable": "1.0.0", **headers}
        request = urllib.request.Request(self.url + address, method=method, data=content or None, headers=head)
        try:
            with self.opener.open(request, timeout=20) as answer:
                answer.read()
                return answer.headers
        except http.client.HTTPException as broken:
            raise ConnectionError(f"{method} {address}: {broken!r}") from broken

    def begin_upload(self, batch_id, name, size):
        """The address of an upload in pieces (tus 1.0.0)."""
        said = {"batch": batch_id, "filename": name}
        metadata = ",".join(f"{key} {base64.b64encode(value.encode()).decode()}" for key, value in said.items())
        return self._tus("POST", "/api/intake/uploads", {"Upload-Length": str(size), "Upload-Metadata": metadata})[
            "Location"
        ]

    def send_piece(self, address, offset, content):
        headers = {"Upload-Offset": str(offset), "Content-Type": "application/offset+octet-stream"}
        return int(self._tus("PATCH", address, headers, content)["Upload-Offset"])

    def ask_offset(self, address):
        return int(self._tus("HEAD", address, {})["Upload-Offset"])
