rm -rf /tmp/prof; mkdir /tmp/prof
node --cpu-prof --cpu-prof-dir=/tmp/prof --import tsx bench/tmp-prof.ts "$1" $2 2>/dev/null
python3 /tmp/top0.py | head -75
