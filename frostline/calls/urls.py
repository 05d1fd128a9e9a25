"""Addresses of calls."""

from django.urls import path

from frostline.calls import bundles, deciding, downloads, photos, rewiring, taking, views

app_name = "calls"
urlpatterns = [
    path("", views.calls, name="calls"),
    path("new/", views.new, name="new"),
    path("rates/", deciding.rates, name="rates"),
    path("bundle/", bundles.take, name="take_bundle"),
    path("new/kind/", taking.new_kind, name="new_kind"),
    path("new/plate/", taking.plate, name="plate"),
    path("<uuid:pk>/", views.call_page, name="call"),
    path("<uuid:pk>/bundle.zip", bundles.save, name="bundle"),
    path("<uuid:pk>/photo/", photos.add, name="photo_add"),
    path("<uuid:pk>/photo/<str:digest>/", photos.photo, name="photo"),
    path("<uuid:pk>/plans/", rewiring.plans, name="plans"),
    path("<uuid:pk>/plans/label/", rewiring.label, name="label"),
    path("<uuid:pk>/plans/undo/", rewiring.undo, name="undo_plan"),
    path("<uuid:pk>/plans/<slug:key>/", rewiring.plan, name="plan"),
    path("<uuid:pk>/keep/", taking.keep, name="keep"),
    path("<uuid:pk>/sheet/", taking.move, name="move"),
    path("<uuid:pk>/newest/", views.newest, name="newest"),
    path("<uuid:pk>/now/", views.now, name="now"),
    path("<uuid:pk>/branch/", views.branch, name="branch"),
    path("<uuid:pk>/candidates/", views.candidates, name="candidates"),
    path("<uuid:pk>/settle/<slug:sensor>/", views.settle, name="settle"),
    path("<uuid:pk>/curve/<slug:sensor>.svg", downloads.curve_svg, name="curve"),
    path("<uuid:pk>/trace.cir", downloads.trace_deck, name="trace_deck"),
    path("<uuid:pk>/trace.svg", downloads.trace_svg, name="trace_svg"),
    path("<uuid:pk>/report/", views.handover, name="report"),
    path("<uuid:pk>/tape.json", downloads.tape_document, name="tape"),
    path("<uuid:pk>/correct/<uuid:slip_id>/", views.correct, name="correct"),
    path("<uuid:pk>/customer/", views.customer, name="customer"),
    path("<uuid:pk>/customer/erase/", views.erase, name="erase"),
    path("<uuid:pk>/file/<slug:digest>/", downloads.attachment, name="attachment"),
    path("<uuid:pk>/<slug:name>/", views.stage, name="stage"),
]
