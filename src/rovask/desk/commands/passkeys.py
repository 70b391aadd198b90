"""Passkeys: a device proves who somebody is, unlocked by its owner. What is proved is judged by the package webauthn."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from typing import Any

from webauthn import (
    generate_authentication_options,
    generate_registration_options,
    options_to_json,
    verify_authentication_response,
    verify_registration_response,
)
from webauthn.helpers import base64url_to_bytes, parse_client_data_json
from webauthn.helpers.exceptions import WebAuthnException
from webauthn.helpers.structs import (
    AuthenticatorSelectionCriteria,
    PublicKeyCredentialDescriptor,
    ResidentKeyRequirement,
    UserVerificationRequirement,
)

from rovask.desk.command import DirectCommand, Scene
from rovask.desk.commands.accounts import Entry, enter
from rovask.store import ways_in
from rovask.store.accounts import SignedIn
from rovask.store.errors import SignInRefused
from rovask.store.safety_tables import Happened

NO_PROOF = "This device could not prove who you are. Sign in with your password, or a recovery code."
NOT_KNOWN = "This passkey is not known here, or was taken away. Sign in with your password."


@dataclass(frozen=True, slots=True)
class Place:
    """Under which name the pages are served, and at which address: a passkey is good for these alone."""

    name: str
    origin: str


@dataclass(frozen=True)
class AskForNew(DirectCommand):
    """What a device is asked to make a passkey of."""

    who: SignedIn
    place: Place

    def run(self, scene: Scene, pk: int) -> str:
        """JSON for the browser."""
        challenge = ways_in.new_challenge(scene.session, self.who.account, scene.clock)
        known = ways_in.credentials_of(scene.session, self.who.account)
        return options_to_json(
            generate_registration_options(
                rp_id=self.place.name,
                rp_name="Rovask",
                user_name=self.who.name,
                user_id=hashlib.sha256(f"rovask account {self.who.account}".encode()).digest(),
                user_display_name=self.who.name,
                challenge=challenge,
                exclude_credentials=[PublicKeyCredentialDescriptor(id=one) for one in known],
                authenticator_selection=AuthenticatorSelectionCriteria(
                    resident_key=ResidentKeyRequirement.REQUIRED, user_verification=UserVerificationRequirement.REQUIRED
                ),
            )
        )


@dataclass(frozen=True)
class KeepNew(DirectCommand):
    """Keep the passkey that a device made. proof: what the browser answered, as JSON."""

    who: SignedIn
    place: Place
    proof: str
    name: str

    def run(self, scene: Scene, pk: int) -> None:
        """Raises SignInRefused, and ValueError for one that can't be kept."""
        challenge = _challenge_in(self.proof)
        ways_in.use_challenge(scene.session, challenge, self.who.account, scene.clock)
        try:
            found = verify_registration_response(
                credential=self.proof,
                expected_challenge=challenge,
                expected_rp_id=self.place.name,
                expected_origin=self.place.origin,
                require_user_verification=True,
            )
        except (WebAuthnException, ValueError, KeyError, TypeError):
            raise SignInRefused("This device's answer could not be read as a passkey; try again.") from None
        ways_in.add_passkey(
            scene.session,
            self.who.account,
            found.credential_id,
            found.credential_public_key,
            found.sign_count,
            self.name,
            scene.clock,
        )
        scene.note(Happened.PASSKEY, f"“{self.name}” added")


@dataclass(frozen=True)
class AskForProof(DirectCommand):
    """What a device is asked to prove who somebody is."""

    place: Place

    def run(self, scene: Scene, pk: int) -> str:
        """JSON for the browser."""
        challenge = ways_in.new_challenge(scene.session, None, scene.clock)
        return options_to_json(
            generate_authentication_options(
                rp_id=self.place.name, challenge=challenge, user_verification=UserVerificationRequirement.REQUIRED
            )
        )


@dataclass(frozen=True)
class SignInByPasskey(DirectCommand):
    """A device's proof in, a session out."""

    place: Place
    proof: str
    agent: str = ""

    def run(self, scene: Scene, pk: int) -> Entry:
        """Raises SignInRefused."""
        challenge = _challenge_in(self.proof)
        ways_in.use_challenge(scene.session, challenge, None, scene.clock)
        row = ways_in.passkey_of(scene.session, _credential_in(self.proof))
        if row is None:
            raise SignInRefused(NOT_KNOWN)
        try:
            found = verify_authentication_response(
                credential=self.proof,
                expected_challenge=challenge,
                expected_rp_id=self.place.name,
                expected_origin=self.place.origin,
                credential_public_key=row.public_key,
                credential_current_sign_count=row.count,
                require_user_verification=True,
            )
        except (WebAuthnException, ValueError, KeyError, TypeError):
            raise SignInRefused(NO_PROOF) from None
        row.count, row.used_at = found.new_sign_count, scene.clock
        return enter(scene, row.account_pk, self.agent, f"by the passkey “{row.name}”")


@dataclass(frozen=True)
class DropPasskey(DirectCommand):
    """Take one of one's own passkeys away."""

    who: SignedIn
    passkey: int

    def run(self, scene: Scene, pk: int) -> None:
        """Raises NotFound."""
        name = ways_in.drop_passkey(scene.session, self.who.account, self.passkey)
        scene.note(Happened.PASSKEY, f"“{name}” taken away")


def _read(proof: str) -> dict[str, Any]:
    try:
        found = json.loads(proof)
    except (ValueError, RecursionError):
        raise SignInRefused(NO_PROOF) from None
    if not isinstance(found, dict):
        raise SignInRefused(NO_PROOF)
    return found


def _challenge_in(proof: str) -> bytes:
    """The challenge an answer says it answers; whether it really does is verified after. Raises SignInRefused."""
    try:
        data = base64url_to_bytes(_read(proof)["response"]["clientDataJSON"])
        return parse_client_data_json(data).challenge
    except (WebAuthnException, KeyError, TypeError, ValueError, AttributeError):
        raise SignInRefused(NO_PROOF) from None


def _credential_in(proof: str) -> bytes:
    try:
        return base64url_to_bytes(_read(proof)["rawId"])
    except (KeyError, TypeError, ValueError, AttributeError):
        raise SignInRefused(NO_PROOF) from None
