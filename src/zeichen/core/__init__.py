"""The rules of the job: values in, values out.

Nothing here knows a request, a row or a screen; nothing reads a clock or the network.
"""
