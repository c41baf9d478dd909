"""The rules of the job: a folder a subject, in the order of the work.

``entry``      what is typed: ``lengths``, rod ``conventions``, ``instruments``
``engine``     ``layout`` and firing order, ``cam`` and lobes, ``base_circle``
``zero_lash``  ``bracket`` of trials, other ``methods``, ``combine``, ``predict``
``heads``      ``spread``, ``mistakes``, valves nobody measured (``infer``)
``rocker``     ``mechanism``, ``sweep``, ``sheet``, ``marks``, ``correction``, ``ratio``, ``photo``
``rods``       ``preload``, ``groups``, ``grouping``, ``growth``, ``chance``, ``decide``,
               ``strength``, ``cutting``
``sign_off``   ``checks``, ``torque``
``said``       ``verdicts``, ``next_step``, ``explanations``, ``rocker``, ``cautions``

Pure functions over floats and arrays; lengths in inches, no clock, no files, no database.
Input that cannot be right raises ``errors.InputError``.
"""
