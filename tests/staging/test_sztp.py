"""Devices that speak RFC 8572 are served: by a certificate or a word, signed or not, in JSON and XML; and are switches only once somebody said so."""

from __future__ import annotations

import base64
import json
import ssl
import subprocess
import threading
from collections.abc import Iterator
from pathlib import Path

import httpx2
import pytest
import uvicorn

from barrio.api.peer import protocol
from barrio.app import arriving, draining, rollcall, stagings, sztp
from barrio.core import Refused
from barrio.core.staging.boxes import box
from barrio.core.staging.ways import Ways
from barrio.sending.cms import Owner, plain
from barrio.staging.simulate import Light
from tests.cli import barrio
from tests.processes import until
from tests.serving import Serving
from tests.staging.conftest import Hall, number
from tests.staging.device import Device, Signer, openssl, signer, voucher

NAME = "leaf-t01"


class Line:
    """The server by TLS, where devices show certificates that a maker signed."""

    def __init__(self, serving: Serving, folder: Path, proxy: str = "127.0.0.9") -> None:
        self.maker = signer(folder, "maker")
        self.domain = signer(folder, "domain")
        self.owner = signer(folder, "owner", self.domain)
        self.server = signer(folder, "server", host="127.0.0.1")
        serving.house.owner = Owner(self.owner.pem, self.owner.key_file, self.server.pem)
        self.house, self.folder = serving.house, folder
        config = uvicorn.Config(
            serving.app, log_level="warning", http=protocol([proxy]), ssl_certfile=self.server.pem, ssl_keyfile=self.server.key_file,
            ssl_ca_certs=str(self.maker.pem), ssl_cert_reqs=ssl.CERT_OPTIONAL, port=0, timeout_graceful_shutdown=1,
        )  # fmt: skip
        self._server = uvicorn.Server(config)
        self._thread = threading.Thread(target=self._server.run, daemon=True)
        self._thread.start()
        until(lambda: self._server.started)
        self.address = f"https://127.0.0.1:{self._server.servers[0].sockets[0].getsockname()[1]}"

    def device(self, serial: str = number(NAME), word: str = "", encoding: str = "json", by: Signer | None = None) -> Device:  # fmt: skip
        context = ssl.create_default_context(cafile=str(self.server.pem))
        if not word:
            own = signer(self.folder, f"device {serial}", by or self.maker, serial)
            context.load_cert_chain(own.pem, own.key_file)
        client = httpx2.Client(base_url=self.address, verify=context, timeout=30)
        return Device(client, self.folder, self.maker, serial, word, encoding)

    def end(self) -> None:
        self._server.should_exit = True
        self._thread.join()


@pytest.fixture
def line(hall: Hall, serving: Serving, tmp_path: Path) -> Iterator[Line]:
    (tmp_path / "pki").mkdir()
    one = Line(serving, tmp_path / "pki")
    hall.bind()
    arriving.say(hall.desk, "tern", Ways(one.address))
    yield one
    one.end()


@pytest.mark.parametrize("encoding", ["json", "xml"])
def test_a_device_takes_only_what_its_owner_signed_and_its_agent_is_let_in(hall: Hall, line: Line, encoding: str) -> None:  # fmt: skip
    own = voucher(line.maker, number(NAME), line.domain)
    sztp.allow(hall.desk, "tern", NAME, own, word=False)
    device = line.device(encoding=encoding)
    told = device.taken(device.ask(signed_data_preferred=[None], os_version="1"), signed=True)
    script = base64.b64decode(told["onboarding-information"]["post-configuration-script"])
    root = hall.folder / "root"
    subprocess.run(["sh", "-s"], input=script, env={"ROOT": str(root), "PATH": "/usr/bin:/bin"}, check=True)
    words = json.loads((root / "etc/barrio-agent.json").read_text())
    assert (root / "etc/barrio-agent.json").stat().st_mode & 0o077 == 0, "a word for one is for nobody else"
    assert words["server"] == line.address
    assert (root / words["trust"][1:]).read_text() == line.server.pem.read_text()
    device.report("bootstrap-complete")
    # The agent that it put there is let in by the word, with nobody's doing.
    stagings.begin(hall.desk, "tern", stagings.Wanted(switches=(NAME,)))
    light = Light(hall.address, hall.folder / "one", {"serial": words["serial"], "word": words["word"]})
    hall.lights[NAME] = light
    hall.threads.append(threading.Thread(target=light.run, args=(hall.stop, 0.02), daemon=True))
    hall.threads[-1].start()
    hall.done()
    assert hall.has(NAME)
    # Once: whoever found the word later is one who knocks.
    other = Light(hall.address, hall.folder / "two", {"serial": words["serial"], "word": words["word"]})
    assert other.start().turn() > 0
    assert {one.knock.serial for one in hall.knocking()} == {number(NAME)}


def test_a_box_that_was_wiped_comes_again_in_the_same_way(hall: Hall, line: Line) -> None:
    arriving.say(hall.desk, "tern", Ways(line.address, "serial"))
    device = line.device()
    for folder in ("one", "two"):
        told = device.taken(device.ask(), signed=False)
        script = base64.b64decode(told["onboarding-information"]["post-configuration-script"]).decode()
        part = script.split("put 600 /etc/barrio-agent.json <<'end'\n")[1].split("\nend\n")[0]
        words = json.loads(base64.b64decode(part))
        Light(hall.address, hall.folder / folder, {"serial": words["serial"], "word": words["word"]}).start().turn()
        [there] = [one.knock for one in rollcall.roll(hall.desk, "tern") if one.knock]
        assert there.serial == number(NAME) and there.state == "admitted"
    assert hall.knocking() == []


def test_who_does_not_show_that_it_is_itself_is_given_nothing(hall: Hall, line: Line) -> None:
    word = sztp.allow(hall.desk, "tern", NAME, b"", word=True)
    right = line.device(word=word)
    assert "onboarding-information" in right.taken(right.ask(), signed=False)
    for wrong in (line.device(word="a guess"), line.device("X-9", word=word), line.device(number("leaf-t02"))):
        answer = wrong.ask()
        assert answer.status_code == 401 and answer.headers["www-authenticate"].startswith("Basic")
        [error] = answer.json()["ietf-restconf:errors"]["error"]
        assert error["error-tag"] == "access-denied" and "Nothing is given" in error["error-message"]
        assert wrong.call("report-progress", {"progress-type": "bootstrap-complete"}).status_code == 401
    # A certificate of somebody else's maker is none, and a header says nothing where no proxy is named.
    with pytest.raises(httpx2.TransportError):
        line.device(by=signer(line.folder, "another maker")).ask()
    forged = base64.b64encode(signer(line.folder, "forged", line.maker, number(NAME)).der).decode()
    bare = httpx2.Client(base_url=line.address, verify=ssl.create_default_context(cafile=str(line.server.pem)))
    path = "/restconf/operations/ietf-sztp-bootstrap-server:get-bootstrapping-data"
    assert bare.post(path, headers={"Client-Cert": f":{forged}:"}).status_code == 401
    # One that is taken out is no switch any more.
    draining.take_out(hall.desk, "tern", NAME, "dead", even_so=True)
    assert right.ask().status_code == 401


def test_who_wants_what_is_signed_is_told_why_there_is_nothing(hall: Hall, line: Line) -> None:
    word = sztp.allow(hall.desk, "tern", NAME, b"", word=True)
    device = line.device(word=word, encoding="xml")
    answer = device.ask(signed_data_preferred=[None])
    assert answer.status_code == 404 and "has no ownership voucher here that holds" in answer.text
    assert answer.headers["content-type"] == "application/yang-data+xml"
    assert "it says it is a fridge" in device.ask(hw_model="fridge").text
    entity = '<!DOCTYPE a [<!ENTITY b "c">]><input/>'
    for bad in (b"<input/>", b"{}", entity.encode(), entity.encode("utf-16"), b"\xff"):
        path = "/restconf/operations/ietf-sztp-bootstrap-server:get-bootstrapping-data"
        said = device.line.post(path, content=bad, headers={"Content-Type": "application/yang-data+xml"}, auth=(number(NAME), word))  # fmt: skip
        assert said.status_code == 400 and "is no input of the module" in said.text
    odd = device.line.post(path, content=b"{}", headers={"Host": "a:b:c"}, auth=(number(NAME), word))
    assert odd.status_code in (400, 403), "a place that is none"
    said = device.call("report-progress", {"progress-type": "dancing"})
    assert said.status_code == 400 and "is no progress-type" in said.text


def test_a_device_that_asks_elsewhere_is_led_to_where_its_fabric_is(hall: Hall, line: Line) -> None:
    arriving.say(hall.desk, "tern", Ways("https://tern.barrio.example:8443"))
    sztp.allow(hall.desk, "tern", NAME, voucher(line.maker, number(NAME), line.domain), word=False)
    device = line.device()
    told = device.taken(device.ask(signed_data_preferred=[None]), signed=True)
    [server] = told["redirect-information"]["bootstrap-server"]
    assert (server["address"], server["port"]) == ("tern.barrio.example", 8443)
    anchors = subprocess.run(
        ["openssl", "pkcs7", "-inform", "DER", "-print_certs"], input=base64.b64decode(server["trust-anchor"]), capture_output=True, check=True,
    ).stdout.decode()  # fmt: skip
    assert line.server.pem.read_text().strip() in anchors


def test_vouchers_that_are_of_no_use_say_why(hall: Hall, line: Line) -> None:
    stranger = signer(line.folder, "stranger")

    def said(own: bytes, name: str = NAME) -> str:
        with pytest.raises(Refused) as raised:
            sztp.allow(hall.desk, "tern", name, own, word=False)
        return str(raised.value)

    assert "it is for X-9, and this is T-LEAF-T01" in said(voucher(line.maker, "X-9", line.domain))
    assert "it ended on" in said(voucher(line.maker, number(NAME), line.domain, days=-1))
    assert "has not signed the owner certificate" in said(voucher(line.maker, number(NAME), stranger))
    assert "this is no voucher" in said(b"what?")
    whole = voucher(line.maker, number(NAME), line.domain)
    assert "this is no voucher" in said(whole.replace(b"verified", b"verifier")), "its signature holds no more"
    rollcall.loosen(hall.desk, "tern", NAME)
    rollcall.bind(hall.desk, "tern", NAME, box(mac="02:00:00:00:00:01"))
    assert "has no serial number yet" in said(whole)


def test_a_switch_without_an_agent_takes_its_configuration_when_it_is_its_turn(hall: Hall, line: Line, serving: Serving) -> None:  # fmt: skip
    hall.write(lambda text: f"{text}\nrungs: {{switch leaf/t01/a: {{target: ietf-json}}}}\n")
    arriving.say(hall.desk, "tern", Ways(line.address, "serial"))
    device = line.device()
    assert "nothing is staged now" in device.ask().text
    [there] = [one.knock for one in rollcall.roll(hall.desk, "tern") if one.knock]
    assert (there.serial, there.state) == (number(NAME), "admitted"), "that it came is kept, though it has to wait"
    stagings.begin(hall.desk, "tern", stagings.Wanted(switches=(NAME,)))
    told = device.taken(device.ask(), signed=False)["onboarding-information"]
    assert told["configuration-handling"] == "replace"
    [text] = hall.wanted(NAME).values()
    assert base64.b64decode(told["configuration"]).decode() == text
    device.report("config-error", "no such port")
    assert "RFC 8572: config-error, no such port" in hall.failed(NAME)
    stagings.again(hall.desk, "tern", NAME)
    device.taken(device.ask(), signed=False)
    device.report("bootstrap-complete")
    hall.done()
    assert "it runs no agent" in hall.at(NAME)[2]


def test_on_the_command_line(hall: Hall, line: Line) -> None:
    def said(*words: str | Path, code: int = 0) -> str:
        return barrio("stage", "sztp", "tern", *words, "--at", hall.address, code=code)

    assert "No box may come" in said()
    word = said(NAME, "--word").strip().rpartition(" ")[2]
    assert "onboarding-information" in (device := line.device(word=word)).taken(device.ask(), signed=False)
    own = line.folder / "own.vcj"
    own.write_bytes(voucher(line.maker, number(NAME), line.domain))
    assert word not in said(NAME, "--voucher", own), "what was said before stays, and is not told again"
    assert "word and voucher" in said() and "asked" in said()
    assert "There is no switch leaf-t99" in said("leaf-t99", code=2)
    assert "cannot be read" in said(NAME, "--voucher", line.folder / "none", code=2)
    said(NAME, "--never")
    assert device.ask().status_code == 401


def test_a_proxy_that_is_named_tells_which_certificate_a_device_showed(hall: Hall, serving: Serving, tmp_path: Path) -> None:  # fmt: skip
    """RFC 9440; what the proxy did not verify it does not tell."""
    hall.bind()
    line = Line(serving, tmp_path, proxy="127.0.0.1")
    try:
        arriving.say(hall.desk, "tern", Ways(line.address, "serial"))
        told = base64.b64encode(signer(tmp_path, "idevid", line.maker, number(NAME)).der).decode()
        context = ssl.create_default_context(cafile=str(line.server.pem))
        path = "/restconf/operations/ietf-sztp-bootstrap-server:get-bootstrapping-data"
        for header, status in ((f":{told}:", 200), (f":{told[:-8]}:", 401), (":!:", 401), ("", 401)):
            client = httpx2.Client(base_url=line.address, verify=context, headers={"Client-Cert": header})
            assert client.post(path).status_code == status, header
        # Its own connection's certificate is the proxy's, and no device's.
        assert line.device().ask().status_code == 401
    finally:
        line.end()


def test_what_nobody_signed_is_cms_of_any_length() -> None:
    for size in (0, 1, 127, 128, 255, 256, 70_000):
        said = openssl("asn1parse", "-inform", "DER", content=plain(bytes(size), "1.2.840.113549.1.9.16.1.43")).decode()
        *_, kind, outer, inner = said.splitlines()
        assert kind.endswith("OBJECT            :1.2.840.113549.1.9.16.1.43") and "cont [ 0 ]" in outer
        assert f"l={size:>4} prim: OCTET STRING" in inner or f"l={size} prim: OCTET STRING" in inner
