"""The web server's settings, the same wherever Recensor is served: ``gunicorn --config python:<this module>``."""

worker_class = "recensor.site.launch.worker.Worker"
workers = 2
preload_app = True  # loaded once: one that takes another's place answers at once
threads = 40  # of each worker; those that wait for their turn cost next to nothing
forwarded_allow_ips = ""  # RECENSOR_PROXIES says whom to believe
control_socket_disable = True
loglevel = "warning"
