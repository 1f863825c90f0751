from flask_wtf import FlaskForm
from wtforms import DateTimeLocalField, SelectField, StringField
from wtforms.validators import DataRequired, Length, Optional, ValidationError


class PassageForm(FlaskForm):
    vessel = StringField("Vessel", validators=[DataRequired(), Length(max=60)])
    at = DateTimeLocalField("At", validators=[Optional()])
    direction = SelectField("Direction", choices=[("up", "Up"), ("down", "Down")])

    def validate_vessel(self, field):
        if field.data and field.data.isdigit():
            raise ValidationError("A vessel has a name.")
