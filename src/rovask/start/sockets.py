"""The socket the pages are served on."""

from __future__ import annotations

import socket

from rovask.start.errors import StartError


def free_port() -> int:
    """A port on loopback that nobody has at this moment."""
    with socket.socket() as sock:
        sock.bind(("127.0.0.1", 0))
        return int(sock.getsockname()[1])


def listening_socket(host: str, port: int) -> socket.socket:
    """The socket the pages are served on. Raises StartError if another program has the port."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    sock = socket.socket(family, socket.SOCK_STREAM)
    sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        sock.bind((host, port))
        sock.listen(128)
    except OSError as error:
        sock.close()
        raise StartError(
            f"Port {port} on {host} can't be used ({error.strerror}); stop what has it or add --port {port + 1}."
        ) from None
    return sock


def inherited_socket(number: int) -> socket.socket:
    """One that is listened on already, by its number; whoever began this process holds it too, so it outlives this one."""
    return socket.socket(fileno=number)
