"""The rules of the job: pure functions over immutable values.

No files, network, database, clock or threads in here, and no import of any other part of Jaskel.
"""
