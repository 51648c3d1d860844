/**
 * Keeps one stand-in computer: boots it, boots it again whenever it restarts, and after it went off when a line comes in.
 * Runs as root in a mount namespace of its own. What it tells, line by line: `booting PID`, `ended STATUS`.
 * From the environment: DIR (an empty folder), GROUP (a control group for it), SIZE (of its disk), INSIDE (what its first process runs).
 */
export const keeperScript = String.raw`
set -eu
mount -t tmpfs -o "size=$SIZE,mode=755" tmpfs "$DIR"
mkdir "$DIR/disk" "$DIR/work" "$DIR/root"
while :; do
  mkdir -p "$GROUP"
  status=0
  sh -c 'echo $$ > "$GROUP/cgroup.procs"; echo "booting $$"; exec setpriv --pdeathsig KILL unshare --mount --pid --uts --ipc --cgroup --net --fork --kill-child sh -c "$INSIDE"' || status=$?
  echo "ended $status"
  # 129: systemd asked the kernel for a restart, which ends a process namespace by SIGHUP.
  [ "$status" = 129 ] || read -r again || exit 0
done
`;

/**
 * The first process of a stand-in computer: this machine's own Debian behind an overlay, started by its own systemd.
 * From the environment, beside DIR: NAME, MACHINE_ID, PEOPLE (lines "login:uid:password:groups:home"), SIGNS_IN (who is
 * signed in by itself, or nothing), SHOWS (lines "what:where": files and folders of the machine that are seen there, read only), RESOLUTION.
 */
export const insideScript = String.raw`
set -eu
[ $$ = 1 ] || { echo "not the first process of a namespace: nothing is started" >&2; exit 1; }
mount --make-rprivate /
M="$DIR/root"
mount -t overlay overlay -o "lowerdir=/,upperdir=$DIR/disk,workdir=$DIR/work" "$M"
mount -t proc proc "$M/proc"
mount -t sysfs -o ro sysfs "$M/sys"
mount -t tmpfs -o mode=755 tmpfs "$M/dev"
mkdir "$M/dev/pts" "$M/dev/shm"
for device in null zero full random urandom tty; do touch "$M/dev/$device"; mount --bind "/dev/$device" "$M/dev/$device"; done
mount -t devpts -o newinstance,ptmxmode=0666,mode=620,gid=5 devpts "$M/dev/pts"
ln -s pts/ptmx "$M/dev/ptmx"
ln -s /proc/self/fd "$M/dev/fd"
mount -t tmpfs -o mode=1777 tmpfs "$M/dev/shm"
mount -t tmpfs -o mode=755 tmpfs "$M/run"
mount -t tmpfs -o mode=1777 tmpfs "$M/tmp"
mount -t tmpfs -o mode=755 tmpfs "$M/sys/fs/cgroup" 2>/dev/null || true
mount -t cgroup2 cgroup2 "$M/sys/fs/cgroup"
mount --bind "$M/proc/sys" "$M/proc/sys"
mount -o remount,ro,bind "$M/proc/sys"
ip link set lo up

if [ ! -e "$M/etc/stand-in-ready" ]; then
  # Nothing that this machine starts for itself.
  for kind in multi-user graphical sockets timers getty sysinit network-online; do rm -rf "$M/etc/systemd/system/$kind.target.wants"; done
  rm -rf "$M/etc/systemd/user/default.target.wants" "$M/etc/systemd/user/sockets.target.wants"
  # Sound is the stand-in's own; there is no disk to look after.
  ln -sf /dev/null "$M/etc/systemd/user/pulseaudio.service"
  ln -sf /dev/null "$M/etc/systemd/user/pulseaudio.socket"
  ln -sf /dev/null "$M/etc/systemd/system/systemd-pstore.service"
  # Its print system, as on any computer.
  mkdir -p "$M/etc/systemd/system/sockets.target.wants" "$M/etc/systemd/system/multi-user.target.wants"
  ln -s /lib/systemd/system/cups.socket "$M/etc/systemd/system/sockets.target.wants/cups.socket"
  ln -s /lib/systemd/system/cups.service "$M/etc/systemd/system/multi-user.target.wants/cups.service"
  echo "$NAME" > "$M/etc/hostname"
  echo "127.0.0.1 localhost $NAME" > "$M/etc/hosts"
  rm -f "$M/etc/machine-id"
  # What was ever installed on this machine is not its history.
  rm -f "$M/var/log/dpkg.log.1"
  : > "$M/var/log/dpkg.log"
  echo "$MACHINE_ID" > "$M/etc/machine-id"
  echo "$PEOPLE" | while IFS=: read -r login uid password groups home; do
    chroot "$M" useradd --uid "$uid" --user-group --no-create-home --home-dir "/home/$login" --shell /bin/bash "$login"
    echo "$login:$password" | chroot "$M" chpasswd
    [ -z "$groups" ] || chroot "$M" usermod --append --groups "$groups" "$login"
  done
  # The display manager's X server draws into memory: what asks for a real screen is left out.
  cat > "$M/usr/local/bin/screen-in-memory" <<'X'
#!/bin/sh
left=$#
while [ "$left" -gt 0 ]; do
  a=$1; shift; left=$((left - 1))
  case $a in
    vt*|-novtswitch|-sharevts) ;;
    -seat) shift; left=$((left - 1)) ;;
    *) set -- "$@" "$a" ;;
  esac
done
exec Xvfb "$@" -noreset -screen 0 RESOLUTION
X
  sed -i -e "s/RESOLUTION/$RESOLUTION/" "$M/usr/local/bin/screen-in-memory"
  chmod 755 "$M/usr/local/bin/screen-in-memory"
  echo /usr/sbin/lightdm > "$M/etc/X11/default-display-manager"
  ln -sf /lib/systemd/system/lightdm.service "$M/etc/systemd/system/display-manager.service"
  # There is no text console behind this screen; with a number of one, nobody could sign in.
  echo 'XDG_VTNR DEFAULT= OVERRIDE=' > "$M/etc/security/stand-in-env.conf"
  for f in lightdm lightdm-autologin lightdm-greeter; do
    sed -i '0,/^session/s##session required pam_env.so conffile=/etc/security/stand-in-env.conf\nsession#' "$M/etc/pam.d/$f"
  done
  mkdir -p "$M/etc/lightdm/lightdm.conf.d"
  {
    printf '[LightDM]\nlogind-check-graphical=false\n[Seat:*]\nxserver-command=/usr/local/bin/screen-in-memory\n'
    printf 'greeter-session=lightdm-gtk-greeter\nuser-session=openbox\n'
    [ -z "$SIGNS_IN" ] || printf 'autologin-user=%s\nautologin-user-timeout=0\n' "$SIGNS_IN"
  } > "$M/etc/lightdm/lightdm.conf.d/50-stand-in.conf"
  touch "$M/etc/stand-in-ready"
fi

# A person's files lie where they lie on the machine, and are their home there.
echo "$PEOPLE" | while IFS=: read -r login uid password groups home; do
  if [ -n "$home" ]; then
    mkdir -p "$M/home/$login" "$M$home"
    mount --bind "$home" "$M/home/$login"
    mount --bind "$home" "$M$home"
  else
    [ -d "$M/home/$login" ] || { mkdir -p "$M/home/$login"; chown "$uid:$uid" "$M/home/$login"; }
  fi
done
echo "$SHOWS" | while IFS=: read -r from as; do
  [ -n "$from" ] || continue
  if [ -d "$from" ]; then mkdir -p "$M$as"; else mkdir -p "$(dirname "$M$as")"; [ -e "$M$as" ] || touch "$M$as"; fi
  mount --bind "$from" "$M$as"
  mount -o remount,ro,bind "$M$as"
done

# Each start has a number of its own; the kernel beneath goes on running, so its own would stay.
cat /proc/sys/kernel/random/uuid > "$M/run/boot-id"
mount --bind "$M/run/boot-id" "$M/proc/sys/kernel/random/boot_id"
hostname "$NAME"
cd "$M"
pivot_root . mnt
umount -l /mnt
exec env -i container=stand-in PATH=/usr/sbin:/usr/bin:/sbin:/bin TERM=linux /lib/systemd/systemd --system --log-target=journal --show-status=0 --unit=graphical.target </dev/null >/dev/null 2>&1
`;
