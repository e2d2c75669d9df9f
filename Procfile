web: python manage.py serve --listen 127.0.0.1:${PORT:-8000}
worker: bash -c 'while true; do python manage.py db_worker --interval 0.5 --no-reload; echo "the worker stopped; starting it again"; sleep 1; done'
standins: python -m zugzwang.standins
clock: python manage.py clock
