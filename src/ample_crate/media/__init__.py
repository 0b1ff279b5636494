"""Everything that touches media bytes. Other packages reach it through `ops`, which runs it in
child processes.
"""
