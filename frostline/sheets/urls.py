"""Addresses of sheets."""

from django.urls import path

from frostline.sheets import draft_views, paper_views, views

app_name = "sheets"
urlpatterns = [
    path("", views.shelf, name="library"),
    path("publish/", views.upload, name="upload"),
    path("publish/many/", views.upload_many, name="upload_many"),
    path("schema.json", views.schema_document, name="schema"),
    path("drafts/", draft_views.drafts, name="drafts"),
    path("drafts/<uuid:pk>/", draft_views.draft, name="draft"),
    path("drafts/<uuid:pk>/side/", draft_views.side, name="draft_side"),
    path("drafts/<uuid:pk>/rows/", draft_views.rows, name="draft_rows"),
    path("drafts/<uuid:pk>/edit/", draft_views.edit, name="draft_edit"),
    path("drafts/<uuid:pk>/paste/", draft_views.paste, name="draft_paste"),
    path("drafts/<uuid:pk>/outfit/", draft_views.outfit, name="draft_outfit"),
    path("drafts/<uuid:pk>/propose/", draft_views.propose, name="draft_propose"),
    path("drafts/<uuid:pk>/publish/", draft_views.publish, name="draft_publish"),
    path("drafts/<uuid:pk>/draft.json", draft_views.document, name="draft_document"),
    path("drafts/<uuid:pk>/pages/", paper_views.add, name="page_add"),
    path("pages/<uuid:pk>/turn/", paper_views.turn, name="page_turn"),
    path("pages/<uuid:pk>/remove/", paper_views.remove, name="page_remove"),
    path("pages/<uuid:pk>/table/", paper_views.table, name="page_table"),
    path("readings/<uuid:pk>/", paper_views.reading, name="reading"),
    path("pictures/<str:digest>/", paper_views.picture, name="picture"),
    path("<slug:slug>/", views.sheet, name="sheet"),
    path("<slug:slug>/r<int:number>/", views.sheet, name="revision"),
    path("<slug:slug>/r<int:number>/draft/", draft_views.copy, name="copy"),
    path("<slug:slug>/r<int:number>/withdraw/", views.withdraw, name="withdraw"),
    path("<slug:slug>/compare/", views.compare, name="compare"),
    path("<slug:slug>/mat/", views.mat, name="mat"),
    path("<slug:slug>/r<int:number>.json", views.document, name="document"),
    path("<slug:slug>/r<int:number>.zip", views.package, name="package"),
    path("<slug:slug>/r<int:number>/<slug:curve>.csv", views.curve_csv, name="curve"),
]
