"""Addresses of runs."""

from django.urls import path

from frostline.runs import views

app_name = "runs"
urlpatterns = [
    path("call/<uuid:pk>/", views.runs, name="runs"),
    path("call/<uuid:pk>/typed/", views.typed, name="typed"),
    path("call/<uuid:pk>/<str:digest>/columns/", views.columns, name="columns"),
    path("call/<uuid:pk>/<str:digest>/coming/", views.coming, name="coming"),
    path("call/<uuid:pk>/<str:digest>/", views.run, name="run"),
]
