"""Addresses of sheets."""

from django.urls import path

from frostline.sheets import views

app_name = "sheets"
urlpatterns = [
    path("", views.shelf, name="library"),
    path("publish/", views.upload, name="upload"),
    path("schema.json", views.schema_document, name="schema"),
    path("<slug:slug>/", views.sheet, name="sheet"),
    path("<slug:slug>/r<int:number>/", views.sheet, name="revision"),
    path("<slug:slug>/r<int:number>.json", views.document, name="document"),
    path("<slug:slug>/r<int:number>/<slug:curve>.csv", views.curve_csv, name="curve"),
]
