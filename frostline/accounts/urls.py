"""Addresses about people."""

from django.contrib.auth.views import LogoutView
from django.urls import path

from frostline.accounts import views

app_name = "accounts"
urlpatterns = [
    path("sign-in/", views.SignInView.as_view(), name="sign_in"),
    path("sign-out/", LogoutView.as_view(), name="sign_out"),
    path("demo/", views.demo_entry, name="demo_entry"),
    path("", views.people, name="people"),
    path("new/", views.person, name="add"),
    path("<int:pk>/", views.person, name="person"),
]
