"""What is done in the background and on request: taking in, planning, running, sealing, handing
over.
"""
