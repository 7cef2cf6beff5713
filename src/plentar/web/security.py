"""Security headers. No inline script or style anywhere, so the policy can forbid both."""

from __future__ import annotations

from flask import Response, current_app, request

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:;"
    " font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none';"
    " frame-ancestors 'none'; manifest-src 'self'"
)


def set_headers(response: Response) -> Response:
    """Put the policy on every answer; pages of a shop are not kept by caches."""
    response.headers["Content-Security-Policy"] = POLICY
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers.setdefault("Referrer-Policy", "same-origin")
    response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
    response.headers["Permissions-Policy"] = "camera=(), microphone=(), geolocation=()"
    if current_app.config["SESSION_COOKIE_SECURE"]:
        response.headers["Strict-Transport-Security"] = "max-age=31536000"
    if request.endpoint != "static":
        response.headers["Cache-Control"] = "no-store"
    return response
