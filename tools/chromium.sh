#!/bin/sh
# Make sure a Chromium is there for the browser tests, from Debian's packages.
set -eu
command -v chromium >/dev/null && exit 0
if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
  echo "Installing Chromium from Debian's packages ..."
  apt-get update -qq && apt-get install -y -qq chromium >/dev/null
else
  echo "Chromium is needed for the browser tests. Type:  sudo apt-get install chromium  and run make again." >&2; exit 1
fi
