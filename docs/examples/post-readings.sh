#!/bin/sh
# Posts a logger's readings in bulk: for cron, or by hand. Needs curl.
#
#   MOPSEL=http://127.0.0.1:4180 PERSON=<id> SYSTEM=<id> ID=<id> sh post-readings.sh 2027-03-09T08:00:00Z 6.1 1.45 20.5
#
# ID is a UUID made for these readings, and the same when they are sent again: then they are taken in once. Where it is
# left out, one is made from what is sent.
set -eu
: "${MOPSEL:=http://127.0.0.1:4180}"
at=$1 ph=$2 ec=$3 temperature=$4
hash=$(printf '%s' "$SYSTEM $at" | sha256sum)
made=$(printf '%s' "$hash" | sed 's/^\(.\{8\}\)\(.\{4\}\).\(.\{3\}\).\(.\{3\}\)\(.\{12\}\).*/\1-\2-8\3-8\4-\5/')
curl --fail-with-body --silent --show-error "$MOPSEL/api/readings" \
  --header 'Content-Type: application/json' --header "Mopsel-Person: $PERSON" \
  --data @- <<JSON
{
  "id": "${ID:-$made}",
  "source": "Logger by the window",
  "readings": [
    {
      "system": "$SYSTEM",
      "at": "$at",
      "ph": $ph,
      "ec": { "value": $ec, "scale": "ms_cm" },
      "temperature": $temperature
    }
  ]
}
JSON
