"""The stand-in: a simulated machine control in a process of its own, and the protocol it is spoken to with.

It has its own truth (`hidden`, `workpiece`): where the stock lies, how long tools are. Who talks to it learns of that as at a
machine, by touching and by measuring.
"""
