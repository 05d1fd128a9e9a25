"""Addresses of the bench."""

from django.urls import path

from frostline.bench import views

app_name = "bench"
urlpatterns = [
    path("", views.start, name="start"),
    path("ladder/", views.ladder, name="ladder"),
    path("good/", views.keep_good, name="good"),
    path("call/<uuid:pk>/", views.on_call, name="call"),
]
