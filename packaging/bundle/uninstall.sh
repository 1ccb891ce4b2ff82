#!/bin/sh
# Removes Plucky Ledger: everything that was installed, and what was armed by whoever runs this.
# Ledgers, recordings, preferences and the journal of changes stay.
set -eu
lib=$(cd "$(dirname "$0")" && pwd)
[ -f "$lib/files" ] || { echo "This is no installed Plucky Ledger: $lib" >&2; exit 1; }
share=$(cat "$lib/share-folder")

# What desktops keep of menu entries, file types and icons; theirs alone where nothing is left.
refresh() {
    for cache in "update-desktop-database $share/applications" \
        "update-mime-database $share/mime" "gtk-update-icon-cache -q -t $share/icons/hicolor"; do
        if command -v "${cache%% *}" > /dev/null 2>&1; then $cache > /dev/null 2>&1 || true; fi
    done
}
[ "${1:-}" != --refresh ] || { refresh; exit 0; }

"$lib/bin/plucky-ledger" disarm --all || echo "What is armed stays until its last boot." >&2
while read -r path; do rm -f "$path"; done < "$lib/files"
refresh
made() { grep -qx "$1" "$lib/folders"; }
if made "$share/mime" && ! find "$share/mime/packages" -type f 2> /dev/null | grep -q .; then
    rm -rf "$share/mime"
fi
for cache in applications/mimeinfo.cache icons/hicolor/icon-theme.cache; do
    if made "$share/${cache%/*}"; then rm -f "$share/$cache"; fi
done
folders=$(sort -r "$lib/folders")
cd /
rm -rf "$lib"
printf '%s\n' "$folders" | while read -r folder; do rmdir "$folder" 2> /dev/null || true; done
echo "Plucky Ledger is removed. Ledgers are kept."
