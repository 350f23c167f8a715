"""``recensor-manage clear``: what counts no more goes, and long logs are moved away. The launcher runs it hourly."""

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from django.utils import timezone
from django_q.models import Task

from recensor.jobs import services as jobs
from recensor.jobs.models import Job
from recensor.people import throttle
from recensor.people.sessions import SessionStore
from recensor.site import logs


class Command(BaseCommand):
    """Clear sessions that have ended, attempts that lock nobody out any more, and rotate logs."""

    help = "Delete ended sign-ins and old attempts, and move long logs away."

    def handle(self, *args: object, verbosity: int = 1, **options: Any) -> None:
        """Do it all; a second time at once does nothing."""
        SessionStore.clear_expired()
        attempts = throttle.clear()
        jobs.clear()
        Task.objects.filter(stopped__lt=timezone.now() - Job.KEPT).delete()
        moved = [name for name in (logs.SECURITY, logs.APPLICATION) if logs.rotate(settings.LOGS / name)]
        if verbosity:
            self.stdout.write(f"{attempts} old attempts deleted; logs moved away: {', '.join(moved) or 'none'}.")
