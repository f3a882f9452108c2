from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [("workshop", "0020_about_what")]

    operations = [migrations.RenameField("user", "has_first_word", "has_first_password")]
