"""How form widgets become markup: plain inputs and choices without a walk through three templates each."""

from typing import Any, Final

from django.forms.renderers import TemplatesSetting
from django.forms.utils import flatatt
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString

_INPUTS: Final = frozenset(
    f"django/forms/widgets/{name}.html" for name in ("text", "number", "input", "hidden", "checkbox", "date", "time")
)
_OPTIONS: Final = frozenset(f"django/forms/widgets/{name}_option.html" for name in ("checkbox", "radio", "input"))


class Renderer(TemplatesSetting):
    """Render what Django's own widget templates do, for the widgets a form of thirty fields is made of."""

    def render(self, template_name: str, context: dict[str, Any], request: Any = None) -> SafeString:
        """Return the markup of one widget."""
        if template_name in _INPUTS:
            return _input(context["widget"])
        if template_name in _OPTIONS:
            return _option(context["widget"])
        if template_name == "django/forms/widgets/select.html":
            return _select(context["widget"])
        return super().render(template_name, context, request)


def _input(widget: dict[str, Any]) -> SafeString:
    value = "" if widget["value"] is None else format_html(' value="{}"', str(widget["value"]))
    return format_html(
        '<input type="{}" name="{}"{}{}>', widget["type"], widget["name"], value, flatatt(widget["attrs"])
    )


def _option(widget: dict[str, Any]) -> SafeString:
    if not widget.get("wrap_label"):
        return _input(widget)
    place = format_html(' for="{}"', widget["attrs"]["id"]) if widget["attrs"].get("id") else ""
    return format_html("<label{}>{} {}</label>", place, _input(widget), widget["label"])


def _select(widget: dict[str, Any]) -> SafeString:
    groups = []
    for name, options, _index in widget["optgroups"]:
        drawn = format_html_join(
            "\n",
            '<option value="{}"{}>{}</option>',
            ((str(o["value"]), flatatt(o["attrs"]), o["label"]) for o in options),
        )
        groups.append(format_html('<optgroup label="{}">{}</optgroup>', name, drawn) if name else drawn)
    inside = format_html_join("\n", "{}", ((group,) for group in groups))
    return format_html('<select name="{}"{}>{}</select>', widget["name"], flatatt(widget["attrs"]), inside)
