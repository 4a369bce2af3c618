"""Own figures beside those of peers: who they are, where one stands, what the gap is worth."""

from .peer_choice import Chosen, chosen_peers
from .peer_lines import GapPart, PeerLine, Peers, peers_of

__all__ = ["Chosen", "GapPart", "PeerLine", "Peers", "chosen_peers", "peers_of"]
