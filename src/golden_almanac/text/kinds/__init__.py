"""What each kind of finding says, a file a kind.

Each holds `NAME`, the kind's name for people; `message(finding)`, what it says, taken apart; and, where there is
something to do, `suggestion(finding, source)`.
"""
