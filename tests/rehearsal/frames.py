"""Frames that only a test would send, as small programs that a host runs."""

from __future__ import annotations

_OPEN = """
import socket, sys
line = socket.socket(socket.AF_PACKET, socket.SOCK_RAW)
line.bind((sys.argv[1], 0))
mac = line.getsockname()[4]
"""
BPDU = _OPEN + 'line.send(bytes.fromhex("0180c2000000") + mac + b"\\x00\\x26" + bytes.fromhex("424203") + bytes(35))\n'
"""A configuration BPDU from a bridge (IEEE 802.1D, 9.3.1)."""
STORM = _OPEN + 'for _ in range(2000):\n    line.send(b"\\xff" * 6 + mac + b"\\x88\\xb5" + b"x" * 50)\n'
"""2,000 broadcasts as fast as they go."""
FLOOD = STORM.replace("2000", "400").replace("50", "1400")
"""400 broadcasts of 1,400 bytes."""
TAGGED = _OPEN + (
    'tag, kind = int(sys.argv[2]).to_bytes(2), b"\\x88\\xb5"\n'
    'for _ in range(5):\n    line.send(b"\\xff" * 6 + mac + b"\\x81\\x00" + tag + kind + b"x" * 50)\n'
)
"""Five broadcasts with a tag of the caller's choice."""
MANY = _OPEN + (
    'for address in range(1, 7):\n    line.send(b"\\xff" * 6 + bytes([2, 0, 0, 0, 9, address]) + b"\\x88\\xb5" + b"x" * 50)\n'
)
"""Broadcasts from six addresses, none of them the caller's own."""
UNTAGGED = _OPEN + 'for _ in range(5):\n    line.send(b"\\xff" * 6 + mac + b"\\x88\\xb5" + b"x" * 50)\n'

JOIN = """
import socket, struct, sys, time
group, device = sys.argv[1:3]
if ":" in group:
    listener = socket.socket(socket.AF_INET6, socket.SOCK_DGRAM)
    wanted = socket.inet_pton(socket.AF_INET6, group) + struct.pack("@I", socket.if_nametoindex(device))
    listener.setsockopt(socket.IPPROTO_IPV6, socket.IPV6_JOIN_GROUP, wanted)
else:
    listener = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    wanted = socket.inet_aton(group) + socket.inet_aton("0.0.0.0") + struct.pack("@i", socket.if_nametoindex(device))
    listener.setsockopt(socket.IPPROTO_IP, socket.IP_ADD_MEMBERSHIP, wanted)
time.sleep(100_000)
"""
"""Joins a group on a device and stays: group, device."""

TO_GROUP = """
import socket, sys, time
device, group = sys.argv[1:3]
speaker = socket.socket(socket.AF_INET6 if ":" in group else socket.AF_INET, socket.SOCK_DGRAM)
speaker.setsockopt(socket.SOL_SOCKET, socket.SO_BINDTODEVICE, device.encode())
speaker.setsockopt(*((socket.IPPROTO_IPV6, socket.IPV6_MULTICAST_HOPS) if ":" in group else (0, socket.IP_MULTICAST_TTL)), 4)
for _ in range(5):
    speaker.sendto(b"made up", (group, 5555))
    time.sleep(0.05)
"""
"""Five datagrams to a group: device, group."""
