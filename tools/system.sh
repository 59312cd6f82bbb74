#!/usr/bin/env bash
# The system libraries that Qt needs; for the `tests` a browser with its driver, and for `all` of
# them another engine and what an app on a desktop needs. Installed as root, named otherwise.
set -u
libraries=(libEGL.so.1 libGL.so.1 libxkbcommon.so.0 libfontconfig.so.1 libdbus-1.so.3 libglib-2.0.so.0
  libxcb-cursor.so.0 libxkbcommon-x11.so.0 libxcb-icccm.so.4 libxcb-keysyms.so.1 libxcb-shape.so.0)
packages=(libegl1 libgl1 libxkbcommon0 libfontconfig1 libdbus-1-3 libglib2.0-0
  libxcb-cursor0 libxkbcommon-x11-0 libxcb-icccm4 libxcb-keysyms1 libxcb-shape0)
missing=()
known=$(/sbin/ldconfig -p 2>/dev/null || ldconfig -p 2>/dev/null)
for at in "${!libraries[@]}"; do
  grep -qF "${libraries[$at]}" <<<"$known" || missing+=("${packages[$at]}")
done
if [ -n "${1:-}" ]; then
  command -v chromium >/dev/null || missing+=(chromium)
  command -v chromedriver >/dev/null || missing+=(chromium-driver)
fi
if [ "${1:-}" = all ]; then
  # Another engine, which needs a display.
  command -v WebKitWebDriver >/dev/null || missing+=(webkit2gtk-driver)
  command -v Xvfb >/dev/null || missing+=(xvfb)
  # Apps for the desktop are driven through accessibility; one of them in another toolkit.
  command -v dbus-run-session >/dev/null || missing+=(dbus)
  [ -e /usr/libexec/at-spi-bus-launcher ] || missing+=(at-spi2-core)
  /usr/bin/python3 -c 'import gi; gi.require_version("Gtk", "3.0")' 2>/dev/null \
    || missing+=(python3-gi gir1.2-gtk-3.0)
fi
[ ${#missing[@]} -eq 0 ] && exit 0
if [ "$(id -u)" -eq 0 ] && command -v apt-get >/dev/null; then
  echo "Installing what Cadena needs of the system: ${missing[*]}"
  # Another that installs is waited for, and does not leave this machine without.
  wait="-o DPkg::Lock::Timeout=300 -o APT::Get::Lists-Lock-Timeout=300"
  for turn in 1 2 3; do apt-get $wait update -qq >/dev/null && break; sleep 10; done
  DEBIAN_FRONTEND=noninteractive apt-get $wait install -y -qq --no-install-recommends "${missing[@]}" >/dev/null \
    || echo "That did not work; please install them by hand: ${missing[*]}"
else
  echo "Cadena needs these of the system; please install them (Debian's names): ${missing[*]}"
fi
exit 0
