# Has a switch of a lab serve and ask as systemd would have it, from its own files. The words: its folder, its place for sockets, and the trial's: a key, beside
# its public half a host key, and the hash of a password that would open an account, were passwords asked for.
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
	echo "$user:$(cat "$key.hash"):19000:0:99999:7:::" >> "$run/services/shadow"
	cp "$key.pub" "$run/services/keys/$user"
done
for file in passwd group shadow; do
	mount --bind "$run/services/$file" "/etc/$file"
done
sed -e "s|/etc/ssh/ssh_host_ed25519_key|$key.host|" -e "s|/etc/ssh/authorized_keys|$run/services/keys|" -e "s|/etc/issue.net|$folder/etc/issue.net|" \
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
