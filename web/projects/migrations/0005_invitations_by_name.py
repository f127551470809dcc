from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("projects", "0004_kits")]
    operations = [
        migrations.RemoveConstraint(model_name="invitation", name="one_invitation_per_mail"),
        migrations.RenameField(model_name="invitation", old_name="mail", new_name="guest"),
        migrations.AlterField(model_name="invitation", name="guest", field=models.CharField(max_length=254)),
        migrations.AddConstraint(
            model_name="invitation", constraint=models.UniqueConstraint(fields=("project", "guest"), name="one_invitation_per_guest")
        ),
    ]
