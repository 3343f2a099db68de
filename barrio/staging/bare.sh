# The namespaces of a simulated switch, with places of its own where programs keep things. The words: its folder, the place for what it keeps, the hall's
# folder.
given=$1/given own=$1/own hall=$3
mount --make-rprivate /
mkdir -p "$2" "$own"
mount --bind "$2" "$own"
hostname localhost
mount -t sysfs sys /sys
# ifupdown2 was read once for all of them, and is forked for each call.
touch "$hall/starter"
mount --bind /run/starter "$hall/starter"
mount -t tmpfs -o mode=755 run /run
mkdir -p /run/frr /run/network /run/sshd /run/chrony /run/lock /run/units
chown frr:frr /run/frr
chown _chrony:_chrony /run/chrony
chmod 750 /run/chrony
mkdir -p /var/tmp/frr
mount -t tmpfs -o mode=1777 frr /var/tmp/frr
mkdir /run/dev
mount -t tmpfs -o mode=755 dev /run/dev
mkdir /run/dev/shm /run/dev/pts
for one in null zero full random urandom tty; do
	touch "/run/dev/$one"
	mount --bind "/dev/$one" "/run/dev/$one"
done
ln -s /proc/self/fd /run/dev/fd
mount --rbind /run/dev /dev
if [ ! -d "$own/etc" ]; then
	# Nothing is on it but Debian, and the agent.
	rm -rf "$own/etc.new"
	cp -a "$hall/etc" "$own/etc.new"
	cp -a "$given/etc/." "$own/etc.new/"
	mkdir -p "$own/sbin" "$own/lib/dhcp" "$own/lib/chrony" "$own/lib/frr" "$own/lib/ifupdown2" "$own/lib/systemd" "$own/log"
	cp "$hall/faulty.py" "$own/sbin/barrio-agent"
	cp "$hall/init.py" "$own/sbin/systemctl"
	cp "$hall/trimmed.py" "$own/sbin/ifreload"
	cp "$hall/trimmed.py" "$own/sbin/nft"
	cp "$hall/trimmed.py" "$own/sbin/sysctl"
	chmod 755 "$own"/sbin/*
	chown _chrony:_chrony "$own/lib/chrony"
	chown frr:frr "$own/lib/frr"
	mkdir -p "$own/log/frr" && chown frr:frr "$own/log/frr"
	mv "$own/etc.new" "$own/etc"
fi
mount --bind "$own/etc" /etc
mount --bind "$own/lib" /var/lib
mount --bind "$own/log" /var/log
mount --bind "$own/sbin" /usr/local/sbin
export PATH=/usr/local/sbin:/usr/sbin:/usr/bin:/sbin:/bin HOME=/root LANG=C.UTF-8 BARRIO_HALL="$hall"
exec /usr/bin/python3 -S -E "$hall/init.py"
