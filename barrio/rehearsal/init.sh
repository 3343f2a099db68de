#!/bin/sh
# The first process of a kernel of its own: its file systems and modules, then the lab's other half.
# BARRIO_LAB is the lab's folder; lib/modules in it leads to the kernel's modules.
export PATH=/usr/sbin:/usr/bin:/sbin:/bin HOME=/root LANG=C.UTF-8 PYTHONDONTWRITEBYTECODE=1
# Where the room's users are numbered otherwise than the machine's, programs that would run as their owner run as nobody.
[ -O /usr/bin/mount ] || "$BARRIO_LAB/mount" -o remount,nosuid /
mount -t proc proc /proc
mount -t sysfs sys /sys
mount -t tmpfs -o mode=755 tmpfs /run
mount -t tmpfs -o mode=1777 tmpfs /tmp
mount -t tmpfs tmpfs /var/log
mkdir -p /run/netns /run/network /run/sshd /run/chrony /var/log/frr
. "$BARRIO_LAB/own.sh"
modprobe -a -d "$BARRIO_LAB" ipv6 8021q vrf dummy macvlan bonding bridge vxlan veth nf_tables nft_limit cls_matchall cls_flower \
	act_police act_skbedit act_gact sch_ingress sch_netem
ip link set lo up
hostname lab
python3 -S -E "$BARRIO_LAB/inside.py" /dev/ttyS0
sync
echo o > /proc/sysrq-trigger
sleep 60
