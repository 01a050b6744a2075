import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('pricebook', '0004_earlier_prices'),
    ]

    operations = [
        migrations.AlterField(
            model_name='price',
            name='effective_on',
            field=models.DateField(),
        ),
        migrations.AlterField(
            model_name='price',
            name='version',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='prices', to='pricebook.version'),
        ),
    ]
