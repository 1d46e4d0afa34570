#!/usr/bin/env bash
# A WebDriver client of nothing but bash: one session by plain HTTP, every answer printed.
# Arguments: host, port, base path of the remote end, address of a page, New Session body.
set -eu
host=$1 port=$2 base=$3 site=$4 capabilities=$5

call() { # method path [body]
  local body=${3-}
  exec 3<>"/dev/tcp/$host/$port"
  printf '%s %s%s HTTP/1.1\r\nHost: %s:%s\r\nContent-Type: application/json\r\nContent-Length: %d\r\nConnection: close\r\n\r\n%s' \
    "$1" "$base" "$2" "$host" "$port" "${#body}" "$body" >&3
  local line length=0
  status=
  while IFS= read -r line <&3; do
    line=${line%$'\r'}
    [ -z "$line" ] && break
    case ${line,,} in
      http/1.1\ *) status=${line:9:3} ;;
      content-length:*) length=${line#*:} ;;
    esac
  done
  value=$(head -c "$((length))" <&3)
  exec 3<&-
}
tell() {
  call "$@"
  printf '%s %s -> %s %s\n' "$1" "${2//$session/SESSION}" "$status" "$value"
}
element() { printf '%s' "$value" | sed 's/.*"element-6066-11e4-a52e-4f735466cecf":"\([^"]*\)".*/\1/'; }

call POST /session "$capabilities"
session=$(printf '%s' "$value" | sed 's/.*"sessionId":"\([^"]*\)".*/\1/')
s=/session/$session
tell POST "$s/url" "{\"url\":\"$site/\"}"
tell GET "$s/title"
tell POST "$s/element" '{"using":"css selector","value":"#anew"}'
anew=$(element)
tell POST "$s/element" '{"using":"css selector","value":"#list li"}'
item=$(element)
tell GET "$s/element/$item/text"
tell POST "$s/element/$anew/click" '{}'
tell GET "$s/element/$item/text"
tell POST "$s/element" '{"using":"css selector","value":"#under"}'
under=$(element)
tell POST "$s/element/$under/click" '{}'
tell POST "$s/element" '{"using":"css selector","value":"#nowhere"}'
tell POST "$s/execute/sync" '{"script":"return document.title","args":[]}'
tell POST "$s/frame" '{"id":0}'
tell POST "$s/element" '{"using":"css selector","value":"#inframe"}'
tell POST "$s/frame" '{"id":null}'
tell GET "$s/screenshot"
tell GET "$s/cookie"
tell DELETE "$s"
