"""Handing over: the names under which files leave the workspace. Imports `candidates`."""
