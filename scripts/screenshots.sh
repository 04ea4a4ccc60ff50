#!/usr/bin/env bash
# Draws the pictures in docs/screenshots: each main command on the demo data, in a terminal window on a display of its own.
# ONLY="publish diff" draws these alone. Needs Debian's packages xvfb, xterm, imagemagick, fonts-dejavu-core and chromium, and a built program.
set -euo pipefail
cd "$(dirname "$0")/.."
program="$PWD/dist/bramblefront.js"
out="$PWD/docs/screenshots"
work=$(mktemp -d)
display=:87
Xvfb "$display" -screen 0 1280x2000x24 >/dev/null 2>&1 &
xvfb=$!
servers=
trap 'kill $xvfb $servers 2>/dev/null || true; rm -rf "$work"' EXIT
mkdir -p "$out"
sleep 1

# shot NAME FOLDER COMMAND… : runs bramblefront with these arguments, behind each THEN once more, and keeps the window's picture.
shot() {
  local name=$1 folder=$2
  shift 2
  case " ${ONLY:-$name} " in *" $name "*) ;; *) return 0 ;; esac
  printf '#!/bin/sh\ncd "%s"\n' "$folder" >"$work/run"
  local quoted=""
  for word in "$@" THEN; do
    case $word in
    THEN)
      printf 'printf "\\033[?25l\\033[1m$ bramblefront%%s\\033[0m\\n" "%s"\nnode "%s"%s\n' "${quoted//\"/\\\"}" "$program" "$quoted" >>"$work/run"
      quoted=""
      ;;
    *[\ \;]*) quoted+=" '$word'" ;;
    *) quoted+=" $word" ;;
    esac
  done
  printf 'printf "\\033[?25l"\nsleep 20\n' >>"$work/run"
  chmod +x "$work/run"
  DISPLAY=$display xterm -title bramblefront -geometry "${COLUMNS_WIDE:-100}x${ROWS:-100}+0+0" -fa 'DejaVu Sans Mono' -fs 11 -bg '#fbfaf7' -fg '#22262a' -xrm 'xterm*color1: #b3261e' -xrm 'xterm*color2: #2e6b2e' \
    -xrm 'xterm*color3: #8a5a00' -xrm 'xterm*color6: #1f5f7a' -xrm 'xterm*boldColors: false' -b 12 -bw 0 +sb -e "$work/run" &
  local window=$!
  sleep "${WAIT:-3}"
  # Cut to its content, with an even border: the command on top, the last line at the bottom.
  import -display "$display" -window bramblefront png:- |
    convert png:- -bordercolor '#fbfaf7' -border 1 -trim +repage -bordercolor '#fbfaf7' -border 14 "$out/$name.png"
  kill $window 2>/dev/null || true
  wait $window 2>/dev/null || true
}

cp -r demo "$work/demo"
[ -n "${ONLY:-}" ] || rm -f "$out"/*.png
shot check "$work/demo" check zones/hollowmere.example.zone --severity error
shot transcribe "$work/demo" transcribe mail/depot.txt --into hollowmere-freight.example --dry-run THEN \
  transcribe mail/depot.txt --into hollowmere-freight.example --answer 7=the-first --answer 10=the-first --dry-run
shot recipe "$work/demo" recipe write larkpost hollowmere-freight.example --fill account=40017 --mx replace --dry-run
cp -r demo "$work/form"
(
  cd "$work/form"
  node "$program" write mx hollowmere-freight.example "10 office.hollowmere.example" >/dev/null
  node "$program" write dmarc hollowmere-freight.example --reports dmarc@hollowmere.example >/dev/null
  cp zones/hollowmere-freight.example.zone published.zone
  node "$program" transcribe mail/quillwing.txt --into hollowmere-freight.example --yes >/dev/null
  node "$program" remove www.hollowmere-freight.example CNAME >/dev/null
  node "$program" sheet hollowmere-freight.example --changes --with published.zone --style blank-apex --page sheet.html >/dev/null || true
)
if [ -z "${ONLY:-}" ]; then
  node scripts/page-shot.mjs "$work/form/sheet.html" "$out/sheet-page.png"
  node scripts/page-shot.mjs "$work/form/sheet.html" "$out/sheet-phone.png" 390 844
fi
shot fix "$work/demo" check hollowmere-rail.example --fix
shot write "$work/demo" write spf hollowmere.example --dry-run
shot show "$work/demo" show hollowmere.example

cp -r demo "$work/past"
mkdir "$work/upland"
cp demo/zones/hollowmere.example.zone "$work/upland/"
printf 'press A 192.0.2.50 ; a colleague’s\n' >>"$work/upland/hollowmere.example.zone"
node --import tsx scripts/play-primary.ts "$work/upland/hollowmere.example.zone" 5398 &
servers=$!
printf 'deliveries:\n  - {label: upland-primary, zones: ["*"], by: update, address: 127.0.0.1, port: 5398}\n' >>"$work/past/bramblefront.yaml"
sleep 3
(
  cd "$work/past"
  node "$program" write mx hollowmere.example "10 office" "20 mx2.larkpost.example." >/dev/null
  node "$program" write spf hollowmere.example >/dev/null
  node "$program" write cname timetable.hollowmere.example site.northlight.example. >/dev/null
  node "$program" check hollowmere.example --fix --yes >/dev/null || true
  node "$program" remove caldavs._tcp.hollowmere.example SRV >/dev/null
  node "$program" publish hollowmere.example --yes >/dev/null
  node "$program" write mx hollowmere.example "10 office" "30 mx2.larkpost.example." >/dev/null
  node "$program" write address kiosk.hollowmere.example 192.0.2.44 >/dev/null
  printf 'pier-kiosk A 192.0.2.41\n' >>zones/hollowmere.example.zone
)
shot publish "$work/past" publish hollowmere.example
shot sheet "$work/past" sheet hollowmere.example @ office _imaps._tcp _dmarc --style short
kill $servers
(
  sleep 1
  for question in "hollowmere.example MX" "_imaps._tcp.hollowmere.example SRV" "mail.hollowmere.example A" "nobody.hollowmere.example A" "elsewhere.example A"; do
    node -e 'const { Resolver } = require("dns").promises; const r = new Resolver(); r.setServers(["127.0.0.1:5399"]); r.resolve(...process.argv.slice(1)).catch(() => {})' $question
  done
) &
WAIT=5 shot rehearse "$work/past" rehearse --port 5399
shot history "$work/past" history hollowmere.example

# The zone as it is, served here; then one address changed behind our back.
if [ -x /usr/sbin/named ]; then
  cp -r demo "$work/served"
  sed -i 's/192\.0\.2\.31/192.0.2.66/; /^timetable/d' "$work/served/zones/hollowmere.example.zone"
  for each in larkpost quillwing; do cp "demo/elsewhere/$each.example.zone" "$work/served/zones/"; done
  cat >"$work/named.conf" <<CONF
options { directory "$work"; pid-file none; session-keyfile "$work/session.key"; lock-file none; listen-on port 5300 { 127.0.0.1; }; listen-on-v6 { none; }; recursion no; check-names primary ignore; notify no; allow-transfer { 127.0.0.1; }; };
controls { };
zone "hollowmere.example" { type primary; file "$work/served/zones/hollowmere.example.zone"; };
zone "larkpost.example" { type primary; file "$work/served/zones/larkpost.example.zone"; };
zone "quillwing.example" { type primary; file "$work/served/zones/quillwing.example.zone"; };
CONF
  /usr/sbin/named -g -c "$work/named.conf" >/dev/null 2>&1 &
  servers=$!
  sleep 2

  shot diff "$work/demo" diff hollowmere.example --with 127.0.0.1:5300

  mkdir "$work/fresh"
  (cd "$work/fresh" && node "$program" init >/dev/null)
  shot adopt "$work/fresh" adopt hollowmere.example --at 127.0.0.1:5300 --leave "_xmpp-*"

  # Mail, once the zone is mended.
  cp -r demo "$work/mended"
  (
    cd "$work/mended"
    node "$program" write mx hollowmere.example "10 office" "20 mx2.larkpost.example." >/dev/null
    node "$program" write spf hollowmere.example >/dev/null
    node "$program" write dkim hollowmere.example --selector ferry1 >/dev/null
    node "$program" write dmarc hollowmere.example --next >/dev/null
  )
  shot sender "$work/mended" sender 203.0.113.9 --envelope crew@hollowmere.example
fi

# Confirming, on servers and a resolver that are played here: a change on its way, all through, and two slips of the hand.
cp -r demo "$work/played"
(
  cd "$work/played"
  node "$program" write mx hollowmere.example "10 office" "20 mx2.larkpost.example." >/dev/null
  node "$program" write spf hollowmere.example >/dev/null
  node "$program" write cname timetable.hollowmere.example site.northlight.example. >/dev/null
)
play() {
  rm -f "$work/played/playing"
  cp "$work/yaml" "$work/played/bramblefront.yaml"
  node --import tsx scripts/play.ts "$work/played" "${1:-}" &
  player=$!
  servers="$servers $player"
  while [ ! -e "$work/played/playing" ]; do sleep 0.2; done
}
next() {
  kill -USR2 $player
  sleep 0.5
}
cp "$work/played/bramblefront.yaml" "$work/yaml"
play
next
shot timing "$work/played" timing hollowmere.example hollowmere.example MX
WAIT=5 shot confirm-watch "$work/played" confirm hollowmere.example --watch
next
shot confirm-wrong "$work/played" confirm hollowmere.example --only-authoritative
kill $player
play untouched
next
shot confirm "$work/played" confirm hollowmere.example
mogrify -strip "$out"/*.png
