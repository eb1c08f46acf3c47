"""What runs in a worker process: pure functions of their arguments, which travel as plain values.

One module a task. None knows the store or the queue, so any `concurrent.futures.Executor` can run
them.
"""
