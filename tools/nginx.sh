#!/bin/sh
# Make sure an nginx is there for the test of the example configuration, from Debian's packages.
set -eu
command -v nginx >/dev/null || [ -x /usr/sbin/nginx ] && exit 0
if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
  echo "Installing nginx from Debian's packages ..."
  apt-get update -qq && apt-get install -y -qq --no-install-recommends nginx-light >/dev/null
else
  echo "nginx is needed for one test. Type:  sudo apt-get install nginx-light  and run make again." >&2; exit 1
fi
