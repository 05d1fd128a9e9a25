"""Addresses that belong to no one page."""

from django.urls import path

from frostline.ui import offline, views

app_name = "ui"
urlpatterns = [
    path("offline/", offline.page, name="offline"),
    path("choose/", views.choose, name="choose"),
    path("understood/<str:dimension>/", views.understood, name="understood"),
]
