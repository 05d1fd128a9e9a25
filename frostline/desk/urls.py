"""Addresses of the front page, search and quick checks."""

from django.urls import path

from frostline.desk import views

app_name = "desk"
urlpatterns = [
    path("", views.home, name="home"),
    path("search/", views.search, name="search"),
    path("check/candidates/", views.code_candidates, name="candidates"),
    path("check/curve.csv", views.table_csv, name="table_csv"),
    path("check/<slug:name>/", views.check, name="check"),
    path("check/<slug:name>/file/", views.file_check, name="file"),
]
