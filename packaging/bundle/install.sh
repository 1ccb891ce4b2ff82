#!/bin/sh
# Installs Plucky Ledger from this folder, without a network: for all users as administrator,
# otherwise for whoever runs it. Again over an older one: ledgers and preferences stay.
#
#   sh install.sh             for all users when run as root, for one's own account otherwise
#   sh install.sh --user      for one's own account alone
set -eu
umask 022
here=$(cd "$(dirname "$0")" && pwd)

say() { printf '%s\n' "$*"; }
fail() { say "$*" >&2; exit 1; }

for_all=no
[ "$(id -u)" = 0 ] && for_all=yes
case "${1:-}" in
    "") ;;
    --user) for_all=no ;;
    *) fail "sh install.sh [--user]" ;;
esac
if [ "$for_all" = yes ]; then
    lib=/opt/plucky-ledger bin=/usr/local/bin share=/usr/local/share
    actions=/usr/share/polkit-1/actions
else
    lib=$HOME/.local/lib/plucky-ledger bin=$HOME/.local/bin
    share=${XDG_DATA_HOME:-$HOME/.local/share} actions=
fi

python=
for one in python3.14 python3.13 python3.12 python3.11 python3; do
    found=$(command -v "$one") || continue
    version=$("$found" -c 'import sys; print("%d.%d" % sys.version_info[:2])') || continue
    if [ -d "$here/wheels/$version" ]; then python=$found; break; fi
done
[ -n "$python" ] || fail "Plucky Ledger needs one of these: Python $(cd "$here/wheels" && echo 3*).
For a PC with an older one, write a stick at another PC: plucky-ledger stick FOLDER"

# What is put outside the environment, and folders made for it, one path a line: for its removal.
notes=$(mktemp -d)
: > "$notes/files"; : > "$notes/folders"
old=$lib.before
rm -rf "$old"
[ ! -f "$lib/folders" ] || cp "$lib/folders" "$notes/folders"

make_folder() {
    [ ! -d "$1" ] || return 0
    make_folder "$(dirname "$1")"
    mkdir "$1"
    printf '%s\n' "$1" >> "$notes/folders"
}
put() { # file, target
    make_folder "$(dirname "$2")"
    rm -f "$2"
    cp "$1" "$2"
    chmod 644 "$2"
    printf '%s\n' "$2" >> "$notes/files"
}

# The environment is made where it stays; the older one comes back where that fails.
undo() {
    # Files of a first install go again; those of an upgrade lie where the older one had them.
    [ -e "$old" ] || while read -r path; do rm -f "$path"; done < "$notes/files"
    rm -rf "$lib"
    sort -r "$notes/folders" | while read -r folder; do rmdir "$folder" 2> /dev/null || true; done
    rm -rf "$notes"
    [ ! -e "$old" ] || mv "$old" "$lib"
    say "Nothing is installed; what was there before is as it was." >&2
}
trap undo EXIT
make_folder "$(dirname "$lib")"
[ ! -e "$lib" ] || mv "$lib" "$old"
"$python" -m venv --without-pip "$lib" || fail "Python's venv is missing: install python3-venv."
"$python" "$here/wheels/pip.whl/pip" --python "$lib/bin/python" --isolated install --quiet --no-index \
    --disable-pip-version-check --root-user-action ignore --no-compile \
    --find-links "$here/wheels/common" --find-links "$here/wheels/$version" "plucky-ledger[all]"
"$lib/bin/python" -m compileall -q "$lib/lib" > /dev/null 2>&1 || true # templates are none
"$lib/bin/plucky-ledger" --version > "$notes/version"
administer=$lib/lib/plucky-ledger/administer
if [ "$for_all" = yes ]; then
    # What becomes administrator leaves the user's own environment out.
    mkdir -p "$(dirname "$administer")"
    printf '#!/bin/sh\nexec %s -I -m plucky_ledger administer "$@"\n' "$lib/bin/python" \
        > "$administer"
    chmod 755 "$administer"
fi

make_folder "$bin"
ln -sf "$lib/bin/plucky-ledger" "$bin/plucky-ledger"
printf '%s\n' "$bin/plucky-ledger" >> "$notes/files"
find "$here/share" -type f > "$notes/shared"
while read -r file; do
    put "$file" "$share/${file#"$here"/share/}"
done < "$notes/shared"
if [ -n "$actions" ]; then
    sed "s|@ADMINISTER@|$administer|" "$here/example.pluckyledger.policy" > "$notes/policy"
    put "$notes/policy" "$actions/example.pluckyledger.policy"
fi
if [ -f "$old/files" ]; then # of the older one, and not of this one
    grep -vxFf "$notes/files" "$old/files" | while read -r path; do rm -f "$path"; done
fi
cp "$notes/files" "$notes/folders" "$here/uninstall.sh" "$lib/"
printf '%s\n' "$share" > "$lib/share-folder"
trap - EXIT
sh "$lib/uninstall.sh" --refresh
say "$(tr -d ',' < "$notes/version") is installed: $bin/plucky-ledger"
say "To remove it: sh $lib/uninstall.sh"
case ":$PATH:" in *":$bin:"*) ;; *) say "Sign in anew, so that $bin is looked into." ;; esac
rm -rf "$old" "$notes"
