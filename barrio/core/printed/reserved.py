"""Words that mean something to the programs that read a switch's files, so that nothing of ours may be called so."""

VRF_WORDS = frozenset({
    "main", "local", "default", "unspec", "all", "any", "none", "mgmt", "vrf", "lo", "bridge", "peer", "global",
    "blackhole", "unreachable", "prohibit", "throw", "broadcast", "multicast", "table", "inet", "inet6", "dev",
    "via", "nexthop", "dummy0", "bond0", "exit", "end", "interface", "route",
})  # fmt: skip
"""Tables, route types and words of the command line of iproute2 and FRRouting, and devices that every switch has."""

SYSTEM_ACCOUNTS = frozenset({
    "root", "daemon", "bin", "sys", "sync", "games", "man", "lp", "mail", "news", "uucp", "proxy", "www-data",
    "backup", "list", "irc", "gnats", "nobody", "sshd", "frr", "frrvty", "_frr", "sudo", "adm", "tty", "disk",
    "kmem", "dialout", "fax", "voice", "cdrom", "floppy", "tape", "audio", "dip", "operator", "src", "shadow",
    "utmp", "video", "sasl", "plugdev", "staff", "users", "nogroup", "input", "sgx", "kvm", "render", "netdev",
    "messagebus", "syslog", "lldpd", "_lldpd", "chrony", "_chrony", "snmp", "debian-snmp", "ssh", "systemd-network",
    "systemd-resolve", "systemd-timesync", "systemd-journal", "systemd-coredump", "admin", "wheel",
})  # fmt: skip
"""Accounts and groups of Debian and of the daemons that a switch runs."""
