"""The front page's address."""

from django.urls import path

from frostline.desk import views

app_name = "desk"
urlpatterns = [path("", views.home, name="home")]
