#!/usr/bin/env bash
# Installs the name servers and the browser that the tests run against, where this machine has Debian's packages and we may install them.
set -u
missing=()
command -v named >/dev/null 2>&1 || [ -x /usr/sbin/named ] || missing+=(bind9)
command -v unbound >/dev/null 2>&1 || [ -x /usr/sbin/unbound ] || missing+=(unbound)
command -v knotd >/dev/null 2>&1 || [ -x /usr/sbin/knotd ] || missing+=(knot)
command -v nsd >/dev/null 2>&1 || [ -x /usr/sbin/nsd ] || missing+=(nsd)
[ -x /usr/sbin/dma ] || missing+=(dma)
command -v ldapsearch >/dev/null 2>&1 || missing+=(ldap-utils)
command -v ip >/dev/null 2>&1 || [ -x /usr/sbin/ip ] || missing+=(iproute2)
perl -MNet::DNS -e 1 2>/dev/null || missing+=(libnet-dns-perl)
command -v openssl >/dev/null 2>&1 || missing+=(openssl)
[ -x /usr/bin/chromium ] || missing+=(chromium)
[ "${#missing[@]}" -eq 0 ] && exit 0
if ! command -v apt-get >/dev/null 2>&1; then
  echo "No apt-get here: tests that need ${missing[*]} are skipped."
  exit 0
fi
as_root=""
if [ "$(id -u)" -ne 0 ]; then
  if ! sudo -n true 2>/dev/null; then
    echo "Not root here: tests that need ${missing[*]} are skipped."
    exit 0
  fi
  as_root="sudo"
fi
export DEBIAN_FRONTEND=noninteractive
# Nothing that is installed may start by itself.
policy=/usr/sbin/policy-rc.d
if [ ! -e "$policy" ]; then
  printf '#!/bin/sh\nexit 101\n' | $as_root tee "$policy" >/dev/null && $as_root chmod 755 "$policy"
  trap '$as_root rm -f "$policy"' EXIT
fi
$as_root apt-get update -qq >/dev/null && $as_root apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
