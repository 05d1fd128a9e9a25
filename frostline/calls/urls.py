"""Addresses of calls."""

from django.urls import path

from frostline.calls import views

app_name = "calls"
urlpatterns = [
    path("", views.calls, name="calls"),
    path("new/", views.new, name="new"),
    path("<uuid:pk>/", views.call_page, name="call"),
    path("<uuid:pk>/candidates/", views.candidates, name="candidates"),
    path("<uuid:pk>/settle/<slug:sensor>/", views.settle, name="settle"),
    path("<uuid:pk>/curve/<slug:sensor>.svg", views.curve_svg, name="curve"),
    path("<uuid:pk>/trace.cir", views.trace_deck, name="trace_deck"),
    path("<uuid:pk>/trace.svg", views.trace_svg, name="trace_svg"),
    path("<uuid:pk>/report/", views.handover, name="report"),
    path("<uuid:pk>/tape.json", views.tape_document, name="tape"),
    path("<uuid:pk>/correct/<uuid:slip_id>/", views.correct, name="correct"),
    path("<uuid:pk>/<slug:name>/", views.stage, name="stage"),
]
