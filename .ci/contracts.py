"""A contract of our own for the import linter: which third-party packages a room may import."""

import sys

from importlinter import Contract, ContractCheck, fields, output


class OnlyThese(Contract):
    """Modules below ``source`` import nothing from outside but the standard library and ``external``."""

    source = fields.ModuleField()
    external = fields.SetField(subfield=fields.StringField())

    def check(self, graph, verbose):
        """Every import that leaves the project, and is neither of the two, is a breach."""
        allowed = self.external | set(sys.stdlib_module_names)
        root = self.source.name.split(".")[0]
        inside = {self.source.name} | graph.find_descendants(self.source.name)
        broken = sorted(
            (module, imported)
            for module in inside
            for imported in graph.find_modules_directly_imported_by(module)
            if (top := imported.split(".")[0]) != root and top not in allowed
        )
        return ContractCheck(kept=not broken, metadata={"broken": broken})

    def render_broken_contract(self, check):
        """Which module imports what."""
        for module, imported in check.metadata["broken"]:
            output.print_error(f"{module} imports {imported}")
