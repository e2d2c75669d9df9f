web: gunicorn zugzwang.wsgi:application --bind 127.0.0.1:${PORT:-8000} --workers 1 --threads 8 --timeout 120 --no-control-socket
worker: bash -c 'while true; do python manage.py db_worker --interval 0.5 --no-reload; echo "the worker stopped; starting it again"; sleep 1; done'
standins: gunicorn zugzwang.standins.app:application --bind 127.0.0.1:${STANDINS_PORT:-8010} --workers 1 --threads 4 --no-control-socket
clock: python manage.py refresh --nightly
