"""What the server answers, a module for each noun. Values of the core travel as they are.

The OpenAPI document and the TypeScript types are generated from here.
"""
