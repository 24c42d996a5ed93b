"""Reviews over HTTP, where what is sent has to be read by its own rules."""

MARIT = "marit@hollinbrook.example"


def test_an_absence_is_set_from_days_as_they_are_written(visit, world):
    marit = visit(MARIT)
    people = {key: world.cast.people[key] for key in ("leilani", "dede")}
    body = {
        "project_id": world.project_id, "person_id": people["leilani"], "stand_in_id": people["dede"],
        "first_on": "2027-03-10", "last_on": "2027-03-12",
    }  # fmt: skip
    made = marit("POST", "/api/absences", json=body)
    assert (made.status_code, made.json["first_on"]) == (200, "2027-03-10")
    assert marit("POST", "/api/absences", json={**body, "first_on": "soon"}).status_code == 400
    assert marit("POST", "/api/absences", json=body).json["code"] == "absence_twice"
    assert marit("DELETE", f"/api/absences/{made.json['id']}").status_code in (200, 204)
