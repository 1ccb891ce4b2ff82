#!/bin/sh
# Names the system libraries that are missing, and installs them when run as root on a Debian-like
# system. What the window needs; without "window" also what PDF needs, and Xvfb and a bus for tests.
# Ends with 1 where something is missing and cannot be installed from here.
set -u

missing=""
need() { # package, library or program
    case "$2" in
        *.so*) ldconfig -p 2>/dev/null | grep -q "$2" || missing="$missing $1" ;;
        *) command -v "$2" >/dev/null 2>&1 || missing="$missing $1" ;;
    esac
}

need libegl1 libEGL.so.1
need libgl1 libGL.so.1
need libxkbcommon0 libxkbcommon.so.0
need libxkbcommon-x11-0 libxkbcommon-x11.so.0
need libdbus-1-3 libdbus-1.so.3
need libfontconfig1 libfontconfig.so.1
need libglib2.0-0 libglib-2.0.so.0
need libxcb-cursor0 libxcb-cursor.so.0
need libxcb-icccm4 libxcb-icccm.so.4
need libxcb-image0 libxcb-image.so.0
need libxcb-keysyms1 libxcb-keysyms.so.1
need libxcb-randr0 libxcb-randr.so.0
need libxcb-render-util0 libxcb-render-util.so.0
need libxcb-shape0 libxcb-shape.so.0
need libxcb-xinerama0 libxcb-xinerama.so.0
need libxcb-xkb1 libxcb-xkb.so.1
if [ "${1:-}" != window ]; then
    need libpango-1.0-0 libpango-1.0.so.0
    need libpangoft2-1.0-0 libpangoft2-1.0.so.0
    need libharfbuzz-subset0 libharfbuzz-subset.so.0
    need xvfb Xvfb
    need dbus dbus-daemon
    ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || missing="$missing postgresql"
    [ -x /usr/libexec/at-spi-bus-launcher ] || [ -x /usr/lib/at-spi2-core/at-spi-bus-launcher ] || missing="$missing at-spi2-core"
fi
fc-list 2>/dev/null | grep -qi dejavu || missing="$missing fonts-dejavu-core fontconfig"

[ -n "$missing" ] || exit 0
command="apt-get install --yes --no-install-recommends$missing"
if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
    echo "Installing system libraries:$missing"
    if apt-get update -qq && DEBIAN_FRONTEND=noninteractive $command >/dev/null; then
        exit 0
    fi
    echo "They could not be installed. Install them by hand: $command"
else
    echo "System libraries are missing. Install them with: sudo $command"
fi
exit 1
