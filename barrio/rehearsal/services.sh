# Has a switch of a lab serve and ask as systemd would have it, from its own files. The words: its folder, its place for sockets, and a trial key's public half.
folder=$1 run=$2 key=$3
mkdir -p "$run/services/home" "$run/services/keys" /run/sshd
# Accounts are the switch's own: those of its file, on top of this system's, seen by nobody else.
for file in passwd group shadow; do
	cp "/etc/$file" "$run/services/$file"
done
chmod 644 "$run/services/passwd" "$run/services/group" && chmod 600 "$run/services/shadow"
sed -n 's/^AllowUsers //p' "$folder/etc/ssh/sshd_config" | tr ' ' '\n' | while read -r user; do
	[ -n "$user" ] || continue
	sed -i "/^$user:/d" "$run/services/passwd" "$run/services/shadow"
	echo "$user:x:60001:60001::$run/services/home:/bin/sh" >> "$run/services/passwd"
	# A password that would open the account, were passwords asked for.
	echo "$user:$(perl -e 'print crypt("trial words", "\$6\$trial\$")'):19000:0:99999:7:::" >> "$run/services/shadow"
	cp "$key" "$run/services/keys/$user"
done
for file in passwd group shadow; do
	mount --bind "$run/services/$file" "/etc/$file"
done
ssh-keygen -q -t ed25519 -N "" -f "$run/services/host_key"
sed -e "s|/etc/ssh/ssh_host_ed25519_key|$run/services/host_key|" -e "s|/etc/ssh/authorized_keys|$run/services/keys|" -e "s|/etc/issue.net|$folder/etc/issue.net|" \
	"$folder/etc/ssh/sshd_config" > "$run/services/sshd_config"
{
	[ ! -f "$folder/etc/chrony/chrony.conf" ] || sed "s|/var/lib/chrony/|$run/services/|" "$folder/etc/chrony/chrony.conf"
	echo "bindcmdaddress /"
	echo "pidfile $run/services/chrony.pid"
} > "$run/services/chrony.conf"
cat > "$run/services/rsyslog.conf" << EOF
module(load="imuxsock" SysSock.Use="off")
input(type="imuxsock" Socket="$run/services/log")
\$IncludeConfig $folder/etc/rsyslog.d/40-fabric.conf
EOF
