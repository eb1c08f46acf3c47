"""Packing files and folders without a workspace: one file a photo; what was cut off goes on."""
