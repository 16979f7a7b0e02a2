#!/bin/sh
# Backs a site up, restores it, and compares two of them. All of a site is in its
# database, so one file holds it.
#
#   sh scripts/backup.sh save    DATABASE_URL FILE
#   sh scripts/backup.sh restore FILE DATABASE_URL     (an empty database)
#   sh scripts/backup.sh compare DATABASE_URL DATABASE_URL
set -eu
umask 077 # a dump holds what only some may read
case "${1:-}" in
  save)
    pg_dump --format=custom --no-owner --no-privileges --file="$3.part" "$2"
    mv "$3.part" "$3" # a file of that name is whole
    ;;
  restore)
    if [ "$(psql -XAtqc "SELECT count(*) FROM pg_tables WHERE schemaname = 'public'" "$3")" != 0 ]; then
      echo "The database is not empty; nothing was restored." >&2
      exit 1
    fi
    pg_restore --exit-on-error --single-transaction --no-owner --no-privileges --dbname="$3" "$2"
    ;;
  compare)
    # For each table its number of rows and a sum over all of them.
    sums() {
      psql -XAtqc "SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY 1" "$1" | while read -r table; do
        psql -XAtqc "SELECT '$table', count(*), coalesce(md5(string_agg(md5(t::text), '' ORDER BY md5(t::text))), '') FROM \"$table\" t" "$1"
      done
    }
    a=$(mktemp) b=$(mktemp)
    trap 'rm -f "$a" "$b"' EXIT
    sums "$2" > "$a"
    sums "$3" > "$b"
    if ! diff "$a" "$b"; then
      echo "The databases differ." >&2
      exit 1
    fi
    ;;
  *) sed -n '2,8s/^# \{0,1\}//p' "$0" >&2; exit 2 ;;
esac
