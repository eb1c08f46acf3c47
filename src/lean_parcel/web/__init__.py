"""The web application: routes over a workspace, and the contract with the page.

`routes` and `responses` have a module for each noun, `requests` what is sent to the server; `api`
joins them, so that the OpenAPI document (`openapi`) follows from the routes themselves.
"""
