# Gives a room a /var/tmp of its own, in which nothing of this machine is but the lab's folder (BARRIO_LAB, or the first word).
lab=${BARRIO_LAB:-$1}
mkdir /run/own
mount -t tmpfs -o mode=1777 own /run/own
mkdir "/run/own/${lab##*/}"
mount --bind "$lab" "/run/own/${lab##*/}"
mount --rbind /run/own /var/tmp
