#!/bin/sh
# Installs from Debian's packages what is missing of the things named.
set -eu
missing=""
need() { case " $missing " in *" $1 "*) ;; *) missing="$missing $1" ;; esac; }
for what in "$@"; do
  case "$what" in
    postgres) ls /usr/lib/postgresql/*/bin/postgres >/dev/null 2>&1 || { need postgresql; need postgresql-contrib; } ;;
    chromium) command -v chromium >/dev/null || need chromium ;;
    cc) command -v cc >/dev/null || { need gcc; need libc6-dev; } ;;
    servers) [ -x /usr/sbin/nginx ] || need nginx-light; [ -x /usr/sbin/apache2 ] || need apache2-bin ;;
    java) command -v java >/dev/null || need default-jre-headless ;;
    load) command -v wrk >/dev/null || need wrk; [ -x /usr/sbin/nginx ] || need nginx-light ;;
    lint)
      if [ ! -x .tools/golangci-lint ]; then
        mkdir -p .tools
        GOBIN="$(pwd)/.tools" go install github.com/golangci/golangci-lint/v2/cmd/golangci-lint@v2.15.0
      fi ;;
  esac
done
[ -n "$missing" ] || exit 0
command="apt-get install -y --no-install-recommends -o DPkg::Lock::Timeout=600$missing"
if [ "$(id -u)" = 0 ]; then sudo=""
elif command -v sudo >/dev/null && sudo -n true 2>/dev/null; then sudo="sudo"
else
  echo "Missing:$missing. As root, run once:" >&2
  echo "  apt-get update && $command" >&2
  exit 1
fi
echo "Installing:$missing"
$sudo apt-get update -qq
# RUNLEVEL=1: what is installed is not started as a service.
# shellcheck disable=SC2086 # words are meant
$sudo env DEBIAN_FRONTEND=noninteractive RUNLEVEL=1 $command >/dev/null
