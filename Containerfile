# The page is built with Node, the wheel holds all of it, and what runs has neither Node nor root.
# podman build -t lean-parcel . && podman run --read-only --tmpfs /tmp -v photos:/data \
#   -p 8470:8470 lean-parcel            (the access token is in what it prints)
FROM docker.io/library/node:20-bookworm-slim AS page
WORKDIR /source/frontend
COPY frontend/package.json frontend/package-lock.json ./
RUN npm ci --no-audit --no-fund
COPY frontend ./
RUN npm run build

FROM docker.io/library/python:3.11-slim-bookworm AS wheel
WORKDIR /source
COPY pyproject.toml constraints.txt README.md ./
COPY src src
COPY --from=page /source/src/lean_parcel/web/static src/lean_parcel/web/static
RUN python -m venv /opt/lean-parcel
RUN pip wheel --no-deps --wheel-dir /wheels .
RUN /opt/lean-parcel/bin/pip install --no-cache-dir -c constraints.txt /wheels/*.whl

FROM docker.io/library/python:3.11-slim-bookworm
RUN useradd --system --uid 8470 --create-home --home-dir /data lean-parcel
COPY --from=wheel /opt/lean-parcel /opt/lean-parcel
USER lean-parcel
# The one place that is written to: the workspace, and the kernels that are compiled once.
VOLUME /data
ENV NUMBA_CACHE_DIR=/data/kernels PYTHONDONTWRITEBYTECODE=1 PYTHONUNBUFFERED=1
EXPOSE 8470
HEALTHCHECK --interval=30s --start-period=60s CMD ["/opt/lean-parcel/bin/python", "-c", \
  "import urllib.request; urllib.request.urlopen('http://localhost:8470/health', timeout=5)"]
ENTRYPOINT ["/opt/lean-parcel/bin/lean-parcel", "serve", "--host", "0.0.0.0", \
  "--workspace", "/data/workspace.sqlite3"]
